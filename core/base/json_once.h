// The JSON library's templates are compiled once, in json_once.cpp, rather than by every file that reads
// JSON: part of the precompiled headers, nothing includes it by name. Some are of the library's inner
// namespace; without this header everything is built as well, only slower.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

extern template class nlohmann::basic_json<>;
extern template class nlohmann::detail::serializer<nlohmann::json>;
extern template class nlohmann::detail::json_sax_dom_parser<nlohmann::json>;
extern template class nlohmann::detail::json_sax_dom_callback_parser<nlohmann::json>;

namespace jacinth {
using JsonFromString = nlohmann::detail::iterator_input_adapter<std::string::const_iterator>;
using JsonFromView = nlohmann::detail::iterator_input_adapter<std::string_view::const_iterator>;
}  // namespace jacinth
extern template class nlohmann::detail::lexer<nlohmann::json, jacinth::JsonFromString>;
extern template class nlohmann::detail::lexer<nlohmann::json, jacinth::JsonFromView>;
extern template class nlohmann::detail::parser<nlohmann::json, jacinth::JsonFromString>;
extern template class nlohmann::detail::parser<nlohmann::json, jacinth::JsonFromView>;
