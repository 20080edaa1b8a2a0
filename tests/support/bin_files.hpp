#pragma once
// Records of bins for tests, each of one thing.

#include <algorithm>
#include <string>

#include "support/disk_image.hpp"

namespace undershelf::test {

/// Of a Windows bin: `$I...`, for a file of 1234 bytes.
inline std::string windows_record(int version, const std::u16string& path) {
    ByteVector b(version == 1 ? 544 : 28 + path.size() * 2 + 2);
    test::put_number(b, 0, static_cast<std::uint64_t>(version), 8);
    test::put_number(b, 8, 1234, 8);
    test::put_number(b, 16, 133'500'000'000'000'000, 8);
    const std::size_t at = version == 1 ? 24 : 28;
    if (version == 2) test::put_number(b, 24, path.size() + 1, 4);
    for (std::size_t i = 0; i < path.size(); ++i) test::put_number(b, at + i * 2, path[i], 2);
    return {b.begin(), b.end()};
}

/// INFO2 of 280 or 800 bytes a record, with thing `number` of drive `drive` (2: C).
inline ByteVector info2(std::size_t record, const std::string& ansi, const std::u16string& unicode,
                        unsigned number = 3, unsigned drive = 2) {
    ByteVector b(20 + record);
    put_number(b, 0, record == 800 ? 5 : 4, 4);
    put_number(b, 12, record, 4);
    std::copy(ansi.begin(), ansi.end(), b.begin() + 20);
    put_number(b, 20 + 260, number, 4);
    put_number(b, 20 + 264, drive, 4);
    put_number(b, 20 + 268, 133'500'000'000'000'000, 8);
    for (std::size_t i = 0; record == 800 && i < unicode.size(); ++i)
        put_number(b, 20 + 280 + i * 2, unicode[i], 2);
    return b;
}

}  // namespace undershelf::test
