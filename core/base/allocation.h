// What the allocator does with large blocks that are given back.
#pragma once

namespace jacinth {

/// Call once at the start of a program, before threads. Large vectors are then taken from memory that the
/// process already has: calculations give back and take the same sizes again and again, and each time the
/// system would have to clear the pages. At most 64 MB for each thread stay with the process when nothing is
/// calculated.
void keepFreedMemory();

}  // namespace jacinth
