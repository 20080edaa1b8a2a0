#pragma once
// For reading a volume when its entries are not what is asked for.

#include "volume/file_system.hpp"

namespace undershelf {

class IgnoringSink : public EntrySink {
  public:
    IgnoringSink(const Volume& volume, std::uint64_t source_size)
        : EntrySink(Budget::of(volume, source_size)) {}
    void entry(Entry&&) override {}
    void evidence(const EntryKey&, Evidence&&) override {}
    void lay_anew(const EntryKey&, Relayout&&) override {}
    void in_use(const ByteRange&) override {}
    void diagnostic(std::string) override {}
};

}  // namespace undershelf
