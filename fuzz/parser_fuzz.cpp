// The parser and the checker of the language against any text, without evaluation, so that very many texts
// are tried: no crash, no hang, an error that names its place in one line.
#include "core/expr/check.h"
#include "fuzz/demand.h"

using namespace jacinth;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const Names names = [] {
        Names n;
        n.roles["x"] = {TagKind::Continuous, "°C", {}, kHour};
        n.roles["m"] = {TagKind::State, "", {"Auto", "Manual"}, {}};
        n.paths["K/x"] = n.roles["x"];
        n.tracks = {"T"};
        n.limits["L"] = {"x"};
        n.aboutSpan = true;
        n.facts = {{"duration", ValueType::DurationValue}, {"load", ValueType::Number}};
        return n;
    }();
    const auto e = compileExpression({reinterpret_cast<const char*>(data), size}, names);
    if (e) {
        demand(e->lookBack >= Duration::zero(), "nothing looks ahead of its time");
        return 0;
    }
    demand(e.error().column >= 1, "an error has a place");
    demand(!e.error().message.empty() && e.error().message.find('\n') == std::string::npos,
           "an error is one line");
    return 0;
}
