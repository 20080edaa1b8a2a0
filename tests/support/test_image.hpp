#pragma once
// What a capture writes, without a source that could be in the way.

#include "capture/image_file.hpp"

namespace undershelf::test {

/// An image of its full length that stays when it is closed.
class TestImage : public ImageFile {
  public:
    TestImage(const std::string& path, std::uint64_t size, std::uint64_t part_size = 0,
              There there = There::must_not)
        : ImageFile(SourceGuard::no_source(), path, size, part_size, there) {
        set_length();
        keep();
    }
};

inline ReplacedFile replaced(const std::string& path) {
    return {SourceGuard::no_source(), path};
}

}  // namespace undershelf::test
