// A short mark of what something was made from: where it differs, that has changed.
#pragma once

#include <fmt/format.h>

#include <cstdint>
#include <cstring>
#include <string>
#include <type_traits>

#include "core/time/instant.h"

namespace jacinth {

/// FNV-1a, 64 bits: the same on every machine, as what is kept in a file must be.
class Mark {
  public:
    void add(const std::string& text) {
        for (const char c : text) add(static_cast<std::uint8_t>(c));
        add(std::uint8_t{0});
    }
    template <typename Number>
    requires std::is_arithmetic_v<Number>
    void add(Number number) {
        std::uint8_t bytes[sizeof number];
        std::memcpy(bytes, &number, sizeof number);
        for (const std::uint8_t b : bytes) sum_ = (sum_ ^ b) * 1099511628211ull;
    }
    void add(Instant t) { add(epochNanoseconds(t)); }
    void add(Duration d) { add(d.count()); }
    std::string text() const { return fmt::format("{:016x}", sum_); }

  private:
    std::uint64_t sum_ = 14695981039346656037ull;
};

}  // namespace jacinth
