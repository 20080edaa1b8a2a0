#pragma once
// Drives and image files, each with what to do with it next: in sentences, and for programs.

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "answers/steps.hpp"
#include "scan/inspect.hpp"
#include "source/attached.hpp"
#include "source/smart.hpp"

namespace undershelf {

/// A drive, or an image file.
struct ListedSource {
    std::optional<AttachedDrive> drive;
    std::optional<Inspection> image;   ///< of a file: what is on it
    std::optional<SmartAnswer> smart;  ///< where the drive was asked
};

/// Its path.
const std::string& path_of(const ListedSource& source);
/// Model, serial number, bus, kind: `Lantern 64, serial CL-0042, usb, solid-state, removable`.
std::string description_of(const ListedSource& source);
/// What is wrong with it, or may become so.
std::vector<std::string> notes_on(const ListedSource& source);
/// `as_root`: commands that need the rights have them already.
Plan plan_for(const ListedSource& source, bool as_root);
nlohmann::ordered_json sources_json(const std::vector<ListedSource>& sources, bool as_root);

}  // namespace undershelf
