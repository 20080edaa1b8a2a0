#pragma once
// What came of a command, with what to do next, for programs.

#include <nlohmann/json_fwd.hpp>

#include "answers/steps.hpp"
#include "export/export.hpp"
#include "export/verify.hpp"
#include "scan/check_contents.hpp"
#include "scan/scan.hpp"

namespace undershelf {

nlohmann::ordered_json scan_json(const ScanOptions& asked, const ScanResult& result, const Plan& plan);
nlohmann::ordered_json check_json(const CheckOptions& asked, const CheckResult& result, const Plan& plan);
nlohmann::ordered_json export_json(const Shelf& shelf, const ExportOptions& asked, const ExportResult& result,
                                   const Plan& plan);
nlohmann::ordered_json verify_json(const std::string& folder, const Verification& result, const Plan& plan);

}  // namespace undershelf
