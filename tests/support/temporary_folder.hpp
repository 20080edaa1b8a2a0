#pragma once
// A folder that goes away with the test.

#include <filesystem>
#include <string>

#include "base/bytes.hpp"

namespace undershelf::test {

class TemporaryFolder {
  public:
    TemporaryFolder();
    ~TemporaryFolder();
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;

    std::filesystem::path path() const { return path_; }
    std::string at(const std::string& name) const { return (path_ / name).string(); }
    std::string write(const std::string& name, Bytes content) const;
    std::string write(const std::string& name, const std::string& content) const;

  private:
    std::filesystem::path path_;
};

std::string read_file(const std::string& path);

}  // namespace undershelf::test
