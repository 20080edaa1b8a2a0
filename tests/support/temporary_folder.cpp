#include "support/temporary_folder.hpp"

#include <cstdlib>
#include <fstream>
#include <sstream>
#include <stdexcept>

namespace undershelf::test {

TemporaryFolder::TemporaryFolder() {
    std::string name = (std::filesystem::temp_directory_path() / "undershelf-test-XXXXXX").string();
    if (!::mkdtemp(name.data())) throw std::runtime_error("no temporary folder can be made");
    path_ = name;
}
TemporaryFolder::~TemporaryFolder() {
    std::error_code ec;
    std::filesystem::remove_all(path_, ec);
}
std::string TemporaryFolder::write(const std::string& name, Bytes content) const {
    std::ofstream(at(name), std::ios::binary)
        .write(reinterpret_cast<const char*>(content.data()), static_cast<std::streamsize>(content.size()));
    return at(name);
}
std::string TemporaryFolder::write(const std::string& name, const std::string& content) const {
    return write(name, Bytes(reinterpret_cast<const std::uint8_t*>(content.data()), content.size()));
}

std::string read_file(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

}  // namespace undershelf::test
