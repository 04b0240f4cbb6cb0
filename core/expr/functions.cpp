#include "core/expr/functions.h"

#include <algorithm>
#include <cmath>

#include "core/expr/evaluator.h"

namespace jacinth {

double leastOf(double a, double b) {
    return std::isnan(a) || std::isnan(b) ? a + b : std::min(a, b);
}
double mostOf(double a, double b) {
    return std::isnan(a) || std::isnan(b) ? a + b : std::max(a, b);
}

const std::vector<FunctionInfo>& functions() {
    using enum Takes;
    using namespace implementation;
    // One row per function.
    // clang-format off
    static const std::vector<FunctionInfo> all{
        // Plain ones.
        {"abs", {Measure}, Gives::SameAsValue, Looks::Nowhere, Reach::Now, UnitRule::Same,
         OfOne{[](double x) { return std::abs(x); }},
         "abs(x)", "the size of x, without its sign",
         "abs(`Kiln 3/Air-off RH` - `Kiln 3/RH twin`)"},
        {"sqrt", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::None,
         OfOne{[](double x) { return std::sqrt(x); }},
         "sqrt(x)", "the square root; missing below 0",
         "sqrt(@bed_dp)"},
        {"exp", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::None,
         OfOne{[](double x) { return std::exp(x); }},
         "exp(x)", "e to the power of x",
         "exp(-@malt_moisture / 10)"},
        {"ln", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::None,
         OfOne{[](double x) { return std::log(x); }},
         "ln(x)", "the natural logarithm; missing at 0 and below",
         "ln(@malt_moisture)"},
        {"log10", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::None,
         OfOne{[](double x) { return std::log10(x); }},
         "log10(x)", "the logarithm to base 10; missing at 0 and below",
         "log10(@gas_flow)"},
        {"sign", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::None,
         OfOne{[](double x) { return x > 0 ? 1 : x < 0 ? -1 : x; }},
         "sign(x)", "-1, 0 or 1",
         "sign(@air_on_temp - @air_off_temp)"},
        {"round", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::Same,
         OfOne{[](double x) { return std::round(x); }},
         "round(x)", "the nearest whole number, halves away from 0",
         "round(@damper)"},
        {"floor", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::Same,
         OfOne{[](double x) { return std::floor(x); }},
         "floor(x)", "the whole number below",
         "floor(@damper / 10)"},
        {"ceil", {Number}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::Same,
         OfOne{[](double x) { return std::ceil(x); }},
         "ceil(x)", "the whole number above",
         "ceil(@damper / 10)"},
        {"clip", {Measure, Measure, Measure}, Gives::SameAsValue, Looks::Nowhere, Reach::Now, UnitRule::Same,
         Clip{},
         "clip(x, lo, hi)", "x, but not below lo and not above hi",
         "clip(@air_off_rh, 0, 100)"},
        {"if", {Condition, Measure, Measure}, Gives::SameAsValue, Looks::Nowhere, Reach::Now, UnitRule::Same,
         If{},
         "if(c, a, b)", "a while c is true, b while it is false; missing while it is unknown",
         "if(@burner_mode is \"Auto\", @gas_flow, 0)"},
        {"least", {Measure, Measure}, Gives::SameAsValue, Looks::Nowhere, Reach::Now, UnitRule::Same,
         OfTwo{leastOf},
         "least(a, b)", "the smaller of two; missing where one is",
         "least(@air_on_temp, @air_off_temp)"},
        {"most", {Measure, Measure}, Gives::SameAsValue, Looks::Nowhere, Reach::Now, UnitRule::Same,
         OfTwo{mostOf},
         "most(a, b)", "the greater of two; missing where one is",
         "most(@air_off_rh, @air_off_rh_twin)"},

        // Those that look back.
        {"mean", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Mean},
         "mean(x over d)", "the mean, weighted by time; over samples each counts once",
         "mean(@gas_flow over 6h)"},
        {"median", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Median},
         "median(x over d)", "the middle of the samples",
         "median(@fan_current over 7d)"},
        {"min", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Min},
         "min(x over d)", "the least sample",
         "min(@air_off_rh over 1h)"},
        {"max", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Max},
         "max(x over d)", "the greatest sample",
         "max(@bearing_temp over 1d)"},
        {"range", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Range},
         "range(x over d)", "the greatest sample less the least",
         "range(@damper over 2h)"},
        {"sum", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Sum},
         "sum(x over d)", "the samples added up",
         "sum(@gas_flow over 12 samples)"},
        {"sd", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Sd},
         "sd(x over d)", "the standard deviation of the samples, with n - 1",
         "sd(@bearing_vibration over 6h)"},
        {"count", {Counted}, Gives::Number, Looks::Back, Reach::Window, UnitRule::None,
         OverWindow{WindowFigure::Count},
         "count(x over d)", "how many samples; or, with the name of a track, how many of its spans began",
         "count(\"Stops\" over 4w)"},
        {"slope", {Measure}, Gives::Number, Looks::Back, Reach::Window, UnitRule::PerHour,
         OverWindow{WindowFigure::Slope},
         "slope(x over d)", "the least-squares line through the samples, per hour",
         "slope(@bearing_vibration over 6h)"},
        {"integral", {Number}, Gives::Number, Looks::Back, Reach::Window, UnitRule::TimesHour,
         OverWindow{WindowFigure::Integral},
         "integral(x over d)", "the area under x, in its unit times hours",
         "integral(@gas_flow over 1d)"},
        {"share", {Condition}, Gives::Number, Looks::Back, Reach::Window, UnitRule::None,
         OfCondition{WindowFigure::Mean},
         "share(c over d)", "the part of the known time that c is true, 0 to 1",
         "share(@burner_mode is \"Auto\" over 24h)"},
        {"time", {Condition}, Gives::Length, Looks::Back, Reach::Window, UnitRule::None,
         OfCondition{WindowFigure::Integral},
         "time(c over d)", "how long c is true",
         "time(@air_on_temp > 80 over 1d)"},
        {"change", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Change},
         "change(x over d)", "the last sample less the first",
         "change(@malt_moisture over 4h)"},
        {"rate", {Measure}, Gives::Number, Looks::Back, Reach::Window, UnitRule::PerHour,
         OverWindow{WindowFigure::Rate},
         "rate(x over d)", "the change divided by the time from the first sample to the last, per hour",
         "rate(@malt_moisture over 4h)"},
        {"quantile", {Measure, Level}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Quantile},
         "quantile(x, q over d)", "the q-quantile of the samples, linear between them (type 7)",
         "quantile(@bed_dp, 0.95 over 1d)"},
        {"first", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::First},
         "first(x over d)", "the first sample",
         "first(@malt_moisture over 12h)"},
        {"last", {Measure}, Gives::SameAsValue, Looks::Back, Reach::Window, UnitRule::Same,
         OverWindow{WindowFigure::Last},
         "last(x over d)", "the last sample",
         "last(@malt_moisture over 12h)"},

        // Those about time and quality.
        {"delay", {Anything, Length}, Gives::SameAsValue, Looks::Nowhere, Reach::Delay, UnitRule::Same,
         Delay{},
         "delay(x, d)", "what x was d ago",
         "@air_on_temp - delay(@air_on_temp, 1h)"},
        {"smooth", {Number}, Gives::Number, Looks::BackByTime, Reach::Window, UnitRule::Same,
         ByNumber{&Evaluator::smoothed},
         "smooth(x over d)", "a line fitted to the last d, near samples counting most (LOESS at the window's end)",
         "smooth(@bed_dp over 2h)"},
        {"ewma", {Number}, Gives::Number, Looks::BackByTime, Reach::Fading, UnitRule::Same,
         ByNumber{&Evaluator::faded},
         "ewma(x over d)", "the mean of all before, weighted by time and fading with the time constant d",
         "ewma(@bearing_vibration over 6h)"},
        {"elapsed", {Condition}, Gives::Length, Looks::Nowhere, Reach::AllBefore, UnitRule::None,
         ByNumber{&Evaluator::elapsed},
         "elapsed(c)", "the time since c became true; 0 while it is false",
         "elapsed(@kiln_step is \"Cure\")"},
        {"rising", {Condition}, Gives::Condition, Looks::Nowhere, Reach::JustBefore, UnitRule::None,
         ByCondition{&Evaluator::rising},
         "rising(c)", "true at the moment c turns from false to true",
         "rising(@fan_current > 5)"},
        {"falling", {Condition}, Gives::Condition, Looks::Nowhere, Reach::JustBefore, UnitRule::None,
         ByCondition{&Evaluator::falling},
         "falling(c)", "true at the moment c turns from true to false",
         "falling(@fan_current > 5)"},
        {"missing", {Anything}, Gives::Condition, Looks::Nowhere, Reach::Now, UnitRule::None,
         IsMissing{},
         "missing(x)", "true while x has no value; never unknown",
         "missing(@air_off_rh)"},
        {"fill", {Measure, Measure}, Gives::SameAsValue, Looks::Nowhere, Reach::Now, UnitRule::Same,
         Fill{},
         "fill(x, v)", "x, and v where x is missing",
         "fill(@air_off_rh, @air_off_rh_twin)"},
        {"stuck", {Number}, Gives::Condition, Looks::BackOrCount, Reach::Window, UnitRule::None,
         ByCondition{&Evaluator::stuck},
         "stuck(x over d)", "true while all samples, two at least, read the same",
         "stuck(@air_off_rh over 1h)"},
        {"trust", {Tag}, Gives::State, Looks::Nowhere, Reach::Now, UnitRule::None,
         ByState{&Evaluator::trust},
         "trust(x)", "how good the stretch has been judged",
         "trust(@air_off_rh) is \"sound\""},

        // Those about limits and tracks.
        {"outside", {Limits, Tag}, Gives::Condition, Looks::Nowhere, Reach::Now, UnitRule::None,
         ByCondition{&Evaluator::outside},
         "outside(limits, x)", "true while x is beyond its golden limits, on either side",
         "outside(\"Normal\", @air_off_temp)"},
        {"above", {Limits, Tag}, Gives::Condition, Looks::Nowhere, Reach::Now, UnitRule::None,
         ByCondition{&Evaluator::above},
         "above(limits, x)", "true while x is above its high limit",
         "above(\"Normal\", @air_off_temp)"},
        {"below", {Limits, Tag}, Gives::Condition, Looks::Nowhere, Reach::Now, UnitRule::None,
         ByCondition{&Evaluator::below},
         "below(limits, x)", "true while x is below its low limit",
         "below(\"Normal\", @air_off_temp)"},
        {"low", {Limits, Tag}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::Same,
         ByNumber{&Evaluator::lowLimit},
         "low(limits, x)", "the low golden limit of x; missing outside the runs it is for",
         "@air_off_temp - low(\"Normal\", @air_off_temp)"},
        {"high", {Limits, Tag}, Gives::Number, Looks::Nowhere, Reach::Now, UnitRule::Same,
         ByNumber{&Evaluator::highLimit},
         "high(limits, x)", "the high golden limit of x; missing outside the runs it is for",
         "high(\"Normal\", @air_off_temp) - @air_off_temp"},
        {"inside", {Track}, Gives::Condition, Looks::Nowhere, Reach::Now, UnitRule::None,
         ByCondition{&Evaluator::inside},
         "inside(track)", "true inside the spans of the track, of this asset or of the site",
         "inside(\"Stops\")"},
    };
    // clang-format on
    return all;
}

const FunctionInfo* functionNamed(const std::string& name) {
    const auto& all = functions();
    const auto f =
        std::find_if(all.begin(), all.end(), [&](const FunctionInfo& x) { return name == x.name; });
    return f == all.end() ? nullptr : &*f;
}

const std::vector<std::string>& functionNames() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> out;
        for (const FunctionInfo& f : functions()) out.emplace_back(f.name);
        return out;
    }();
    return names;
}

std::size_t valueArgument(const FunctionInfo& f) {
    const auto measure = std::find(f.takes.begin(), f.takes.end(), Takes::Measure);
    return measure == f.takes.end() ? 0 : static_cast<std::size_t>(measure - f.takes.begin());
}

}  // namespace jacinth
