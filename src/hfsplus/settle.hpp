#pragma once
// HFS+ volumes without a header from traces. A catalogue record tells the allocation blocks of its content by
// numbers; block x is at V + x * S. Contents are held against names: the volume start V and block size S
// on which most agree are taken. The geometries of present volumes, of old headers and of usual places are
// tested; the nodes of a present volume's own life make no former one.

#include "volume/file_system.hpp"

namespace undershelf::hfsplus {

std::vector<Recognition> settle(const Settling& settling, const Progress& progress);

}  // namespace undershelf::hfsplus
