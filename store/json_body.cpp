#include "store/json_body.h"

#include <fmt/format.h>

#include <cmath>

#include "core/base/parse_json.h"

namespace jacinth {

using nlohmann::json;

JsonBody::JsonBody(const std::string& text) : JsonBody(text.empty() ? json::object() : parseJson(text)) {}

JsonBody::JsonBody(json object) : object_(std::move(object)) {
    if (object_.is_object()) return;
    object_ = json::object();
    remember("it cannot be read");
}

void JsonBody::remember(std::string trouble) {
    if (!trouble_) trouble_ = std::move(trouble);
}

const json& JsonBody::member(const char* name) const {
    static const json none;
    const auto found = object_.find(name);
    return found == object_.end() ? none : *found;
}

std::int64_t JsonBody::integer(const char* name, std::int64_t least, std::int64_t most,
                               std::int64_t otherwise) {
    const json& v = member(name);
    if (v.is_null()) return otherwise;
    if (v.is_number_unsigned() && v.get<std::uint64_t>() > static_cast<std::uint64_t>(INT64_MAX)) {
        remember(fmt::format("`{}` is out of bounds", name));
        return otherwise;
    }
    if (v.is_number_integer() && v.get<std::int64_t>() >= least && v.get<std::int64_t>() <= most)
        return v.get<std::int64_t>();
    remember(fmt::format("`{}` is {}", name, v.is_number_integer() ? "out of bounds" : "not a whole number"));
    return otherwise;
}

double JsonBody::number(const char* name, double least, double most, double otherwise) {
    const json& v = member(name);
    if (v.is_null()) return otherwise;
    if (v.is_number() && v.get<double>() >= least && v.get<double>() <= most) return v.get<double>();
    remember(fmt::format("`{}` is {}", name, v.is_number() ? "out of bounds" : "not a number"));
    return otherwise;
}

std::string JsonBody::text(const char* name, const std::string& otherwise) {
    const json& v = member(name);
    if (v.is_null()) return otherwise;
    if (v.is_string()) return v.get<std::string>();
    remember(fmt::format("`{}` is not a text", name));
    return otherwise;
}

bool JsonBody::flag(const char* name, bool otherwise) {
    const json& v = member(name);
    if (v.is_null()) return otherwise;
    if (v.is_boolean()) return v.get<bool>();
    remember(fmt::format("`{}` is not yes or no", name));
    return otherwise;
}

Duration JsonBody::duration(const char* name, Duration otherwise, bool orNone) {
    return Duration(integer(name, orNone ? 0 : 1, kLongestTime.count(), otherwise.count()));
}

template <typename T, typename IsOne>
std::vector<T> JsonBody::listOf(const char* name, IsOne isOne, const char* what) {
    std::vector<T> out;
    const json& v = member(name);
    if (v.is_null()) return out;
    if (!v.is_array()) remember(fmt::format("`{}` is not a list", name));
    if (v.is_array())
        for (const json& each : v) {
            if (isOne(each))
                out.push_back(each.get<T>());
            else
                remember(fmt::format("`{}` holds what is not a {}", name, what));
        }
    return out;
}

std::vector<std::int64_t> JsonBody::integers(const char* name) {
    return listOf<std::int64_t>(
        name, [](const json& v) { return v.is_number_integer(); }, "whole number");
}

std::vector<std::string> JsonBody::texts(const char* name) {
    return listOf<std::string>(
        name, [](const json& v) { return v.is_string(); }, "text");
}

}  // namespace jacinth
