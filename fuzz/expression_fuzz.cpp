// The language against any text: no crash, no hang, an error that names its place, and evaluation of whatever
// compiles over a short record with gaps and bad samples.
#include <cmath>

#include "core/expr/evaluate.h"
#include "core/time/times_for_tests.h"
#include "fuzz/demand.h"

using namespace jacinth;

namespace {

class ShortRecord : public Inputs {
  public:
    Result<Signal> role(const std::string& name) override {
        Series s;
        for (int i = 0; i < 40; ++i) {
            const Instant t = at(i * kMinute + (i > 20 ? 3 * kHour : Duration()));
            s.push(t, name == "m" ? i / 7 % 2 : std::sin(i * 0.7) * 10,
                   i % 9 == 4 ? Quality::Bad : Quality::Good);
        }
        Signal out = signalOf(s, {name == "x" ? TagKind::Continuous : TagKind::Stepped, kHour}, at(0));
        if (name == "m") out.states = {"Auto", "Manual"};
        return out;
    }
    Result<Signal> path(const std::string&) override { return role("x"); }
    Result<std::vector<TimeRange>> track(const std::string&) override {
        return std::vector<TimeRange>{between(5 * kMinute, 9 * kMinute), between(4 * kHour, 4 * kHour)};
    }
    Result<LimitLines> limits(const std::string&, const std::string&, bool) override {
        return LimitLines{constantSignal(-5), constantSignal(5)};
    }
};

Names namesOfRecord(bool aboutSpan) {
    Names names;
    names.roles["x"] = {TagKind::Continuous, "°C", {}, kHour};
    names.roles["s"] = {TagKind::Stepped, "%", {}, {}};
    names.roles["m"] = {TagKind::State, "", {"Auto", "Manual"}, {}};
    names.paths["K/x"] = names.roles["x"];
    names.derived = {"s"};
    names.tracks = {"T"};
    names.limits["L"] = {"x"};
    names.aboutSpan = aboutSpan;
    if (aboutSpan) names.facts = {{"duration", ValueType::DurationValue}, {"load", ValueType::Number}};
    return names;
}

void checkError(const Error& e) {
    demand(e.column >= 1, "an error has a place");
    demand(!e.message.empty() && e.message.find('\n') == std::string::npos, "an error is one line");
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    static const Names overTime = namesOfRecord(false), about = namesOfRecord(true);
    ShortRecord inputs;
    const auto e = compileExpression(text, overTime);
    if (!e) {
        checkError(e.error());
    } else if (const auto value = evaluate(*e, inputs, between(0, 5 * kHour)); value) {
        if (const auto* s = std::get_if<Signal>(&*value); s && !s->constant) {
            demand(s->times.size() == s->values.size(), "as many values as times");
            for (std::size_t i = 0; i < s->times.size(); ++i) {
                demand(i == 0 || s->times[i] > s->times[i - 1], "times rise");
                demand(!std::isinf(s->values[i]), "no value is infinite");
            }
        }
        if (const auto* c = std::get_if<Condition>(&*value))
            for (std::size_t i = 1; i < c->times.size(); ++i) {
                demand(c->times[i] > c->times[i - 1], "times rise");
                demand(c->values[i] != c->values[i - 1], "a change changes");
            }
    }
    const auto run = compileExpression(text, about);
    const Span span{SpanId(1), AssetId(1), {}, at(kMinute), at(3 * kHour), {{"load", 42.0}}};
    if (!run)
        checkError(run.error());
    else
        (void)evaluateAbout(span, *run, inputs);
    return 0;
}
