#pragma once
// What the slots of one file or folder say of it, wherever its clusters are.

#include "fat/directory.hpp"
#include "fat/first_letter.hpp"
#include "volume/file_system.hpp"

namespace undershelf::fat {

/// Kind, size, attributes and dates. `folder`: the key of the folder that holds it.
Entry basic_entry(const ShortEntry& slots, const EntryKey& folder, const ReadOptions& options);
/// Its name, and what is argued of it. `siblings` may be null.
void name_entry(Entry& entry, const ShortEntry& slots, const CodePage& page, const SeriesLetters* siblings);

}  // namespace undershelf::fat
