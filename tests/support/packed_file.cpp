#include "support/packed_file.hpp"

#include <zlib.h>

#include <memory>
#include <stdexcept>
#include <vector>

namespace undershelf::test {

std::string unpacked_file(const std::string& path) {
    const std::unique_ptr<gzFile_s, decltype(&gzclose)> packed(gzopen(path.c_str(), "rb"), gzclose);
    if (!packed) throw std::runtime_error("There is no " + path);
    std::string out;
    std::vector<char> room(1 << 16);
    int got = 0;
    while ((got = gzread(packed.get(), room.data(), static_cast<unsigned>(room.size()))) > 0)
        out.append(room.data(), static_cast<std::size_t>(got));
    if (got < 0) throw std::runtime_error(path + " cannot be unpacked");
    return out;
}

}  // namespace undershelf::test
