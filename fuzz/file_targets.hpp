#pragma once
// Targets whose input is what is in a folder: bags, shelves, and images with their coverage.

#include "base/bytes.hpp"

namespace undershelf::fuzz {

/// A bag of an export, finished or not, whose files are changed, cut, or replaced by links and pipes: it is
/// verified and gone on with. Traps when anything outside it changes, or when a changed payload is called
/// sound.
void bag(Bytes input);
/// A shelf of which bytes or values are changed: everything that commands ask is asked.
void shelf(Bytes input);
/// An image, its coverage and hashes, of which bytes are changed: it is opened, and captured into once more.
/// Traps when the source changes.
void captured(Bytes input);

}  // namespace undershelf::fuzz
