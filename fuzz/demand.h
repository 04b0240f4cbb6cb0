// What a fuzzer asks of its target: a crash where it does not hold, so that the fuzzer keeps the input.
#pragma once

#include <cstdio>
#include <cstdlib>

inline void demand(bool good, const char* what) {
    if (good) return;
    std::fprintf(stderr, "broken: %s\n", what);
    std::abort();
}
