// The one way texts in JSON are read out of a study: every member is checked for its type and its bounds, and
// what is wrong is remembered instead of thrown.
#pragma once

#include <limits>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth {

/// Reads an object's members. A member that is absent gives `otherwise` and is not an error; one of the
/// wrong type or out of bounds gives `otherwise` and is: the caller decides whether the whole body is
/// unusable.
class JsonBody {
  public:
    /// A text that is not an object reads as an empty one, with trouble. An empty text is an empty object.
    explicit JsonBody(const std::string& text);
    explicit JsonBody(nlohmann::json object);

    std::int64_t integer(const char* name, std::int64_t least, std::int64_t most, std::int64_t otherwise);
    double number(const char* name, double least, double most, double otherwise);
    std::string text(const char* name, const std::string& otherwise = {});
    bool flag(const char* name, bool otherwise);
    /// A length of time above 0 and up to 100 000 days; with `orNone` 0 is one too.
    Duration duration(const char* name, Duration otherwise, bool orNone = true);
    std::vector<std::int64_t> integers(const char* name);
    std::vector<std::string> texts(const char* name);
    /// Nanoseconds since 1970, any that there are.
    Instant instant(const char* name, Instant otherwise) {
        return fromEpochNanoseconds(integer(name, std::numeric_limits<std::int64_t>::min(),
                                            std::numeric_limits<std::int64_t>::max(),
                                            epochNanoseconds(otherwise)));
    }
    /// An id; none where there is none.
    template <typename AnyId>
    AnyId id(const char* name) {
        return AnyId(integer(name, 0, std::numeric_limits<std::int64_t>::max(), 0));
    }
    template <typename AnyId>
    std::vector<AnyId> ids(const char* name) {
        std::vector<AnyId> out;
        for (const std::int64_t n : integers(name)) out.emplace_back(n);
        return out;
    }
    /// The member itself; null where there is none.
    const nlohmann::json& member(const char* name) const;
    bool has(const char* name) const { return object_.contains(name); }

    void remember(std::string trouble);
    const std::optional<std::string>& trouble() const { return trouble_; }  ///< the first that was found

  private:
    template <typename T, typename IsOne>
    std::vector<T> listOf(const char* name, IsOne isOne, const char* what);
    nlohmann::json object_;
    std::optional<std::string> trouble_;
};

inline constexpr Duration kLongestTime = 100'000 * kDay;  ///< what a body may say a time lasts

}  // namespace jacinth
