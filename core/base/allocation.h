// What the allocator does with large blocks that are given back.
#pragma once

namespace jacinth {

/// Call once at the start of a program, before threads. Large vectors are then taken from memory that the
/// process already has: calculations give back and take the same sizes again and again, and each time the
/// system would have to clear the pages. At most 64 MB for each thread stay with the process when nothing is
/// calculated, until giveBackFreedMemory().
void keepFreedMemory();

/// What is kept free goes back to the system: for a program that will be idle for a while. Takes some
/// milliseconds a hundred megabytes, during which other threads may wait for memory.
void giveBackFreedMemory();

}  // namespace jacinth
