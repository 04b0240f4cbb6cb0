#include "work/prove/starting_ranges.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/expr/signal.h"
#include "work/base/expression_over_time.h"

namespace jacinth {
namespace {

constexpr std::size_t kMostAssets = 8, kMoments = 20'000;

struct Measured {
    std::vector<double> values;
    std::size_t assets = 0;
};

bool isIn(const std::vector<TimeRange>& ranges, Instant t) {
    const auto after = std::upper_bound(ranges.begin(), ranges.end(), t,
                                        [](Instant at, const TimeRange& r) { return at < r.from; });
    return after != ranges.begin() && std::prev(after)->contains(t);
}

void takeValues(const Signal& signal, TimeRange record, const std::vector<TimeRange>& notCounted,
                std::size_t moments, std::vector<double>& out) {
    for (std::size_t i = 0; i < moments; ++i) {
        const double share = (static_cast<double>(i) + 0.5) / static_cast<double>(moments);
        const Instant t = record.from + fromNanoseconds(toNanoseconds(record.length()) * share);
        if (!isIn(notCounted, t)) out.push_back(signalAt(signal, t));
    }
}

/// Nothing where the measure has an error or is no number.
Result<Measured> valuesOf(Study& study, const ProveRequest& request, const std::string& measure,
                          const Progress& progress) {
    Measured out;
    const auto fleet = compileRule(study, measure, request.failures, request.asset);
    if (!fleet) return out;
    const auto cases = casesFor(study, request, *fleet);
    if (!cases) return out;
    const std::size_t all = cases->assets.size(), n = std::min(all, kMostAssets);
    ExpressionOverTime evaluator(study, request.which);
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t at = n < 2 ? 0 : i * (all - 1) / (n - 1);
        const AssetCase& on = cases->assets[at];
        const auto value =
            evaluator.evaluate(on.asset, fleet->byAsset[at].second, study.record(),
                               progress.part(static_cast<double>(i) / static_cast<double>(n),
                                             static_cast<double>(i + 1) / static_cast<double>(n)));
        if (progress.stopped(0)) return Error::cancelled();
        if (!value) continue;
        const auto* signal = std::get_if<Signal>(&value->value);
        if (signal == nullptr) continue;
        takeValues(*signal, study.record(), on.notCounted, kMoments / n, out.values);
        ++out.assets;
    }
    return out;
}

}  // namespace

StartingSetting settingAround(const std::string& name, double value) {
    return {rangeAround(name, value), value == 0 ? "nothing but its sign" : "half to double of what it is"};
}

Result<std::vector<StartingSetting>> startingRanges(Study& study, const ProveRequest& request,
                                                    const Progress& progress) {
    const std::vector<std::string> names = settingsIn(request.rule);
    std::vector<StartingSetting> out;
    Settings now = request.settings;
    for (const std::string& name : names) {
        const auto known = now.find(name);
        out.push_back(settingAround(name, known == now.end() ? 1 : known->second));
        if (known == now.end()) now[name] = 1;
        const auto place = placeOfSetting(request.rule, name);
        const auto time = place ? rangeForTime(name, place->unit) : std::nullopt;
        if (!time) continue;
        out.back() = {*time, "a usual length of time"};
        if (known == now.end()) now[name] = time->value;
    }
    for (std::size_t i = 0; i < names.size(); ++i) {
        const auto place = placeOfSetting(request.rule, names[i]);
        if (!place || place->measure.empty()) continue;
        auto measured =
            valuesOf(study, request, withSomeSettings(place->measure, now),
                     progress.part(static_cast<double>(i) / static_cast<double>(names.size()),
                                   static_cast<double>(i + 1) / static_cast<double>(names.size())));
        if (!measured) return measured.error();
        auto range = rangeFromValues(names[i], measured->values, place->side);
        if (!range) continue;
        out[i] = {*range,
                  fmt::format("the {} % of {} on {} {}", place->side == SettingSide::Above ? 99 : 1,
                              place->measure, measured->assets, measured->assets == 1 ? "asset" : "assets")};
    }
    return out;
}

}  // namespace jacinth
