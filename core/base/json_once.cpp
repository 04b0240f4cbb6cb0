#include "core/base/json_once.h"

template class nlohmann::basic_json<>;
template class nlohmann::detail::serializer<nlohmann::json>;
template class nlohmann::detail::json_sax_dom_parser<nlohmann::json>;
template class nlohmann::detail::json_sax_dom_callback_parser<nlohmann::json>;
template class nlohmann::detail::lexer<nlohmann::json, jacinth::JsonFromString>;
template class nlohmann::detail::lexer<nlohmann::json, jacinth::JsonFromView>;
template class nlohmann::detail::parser<nlohmann::json, jacinth::JsonFromString>;
template class nlohmann::detail::parser<nlohmann::json, jacinth::JsonFromView>;
