#include "work/prove/trade_curve.h"

#include <algorithm>
#include <cmath>

#include "work/prove/searching.h"

namespace jacinth {
namespace {

constexpr int kSteps = 41, kWideSteps = 21, kDoublings = 6;
/// A rule that is true for longer is one long alarm, which catches everything and warns of nothing.
constexpr double kMostAlarmed = Aim{}.alarmedAtMost;

/// Some steps of the limit between two numbers.
Result<std::vector<TradePoint>> sweep(Study& study, const ProveRequest& request, const TradeCurve& curve,
                                      const Vary& vary, const Progress& progress) {
    SearchRequest search;
    search.prove = request;
    search.prove.rule = curve.rule;
    search.prove.settings = curve.settings;
    search.prove.settings.erase(curve.limit);
    search.vary = {vary};
    search.leaveOut.clear();
    search.shuffles = 0;
    const auto found = searchRule(study, search, progress);
    if (!found) return found.error();
    std::vector<TradePoint> out;
    for (std::size_t i = 0; i < found->settings.size(); ++i)
        out.push_back({found->settings[i].at(curve.limit), found->result.tallies[i]});
    return out;
}

bool sameCounts(const Tally& a, const Tally& b) {
    return a.caught == b.caught && a.falseAlarms == b.falseAlarms && a.cameTrue == b.cameTrue;
}

bool isOfUse(const TradePoint& p) {
    return p.tally.alarmedShare <= kMostAlarmed;
}

enum class Reach { Never, OfUse, TooMuch };
Reach reachOf(const TradePoint& p) {
    if (!isOfUse(p)) return Reach::TooMuch;
    return p.tally.caught + p.tally.cameTrue + p.tally.falseAlarms == 0 ? Reach::Never : Reach::OfUse;
}

/// On which sides there may be more: at the end it is still of use, or both ends are the same and nothing
/// between them is of use.
std::pair<bool, bool> goesOn(const std::vector<TradePoint>& points) {
    const Reach low = reachOf(points.front()), high = reachOf(points.back());
    const bool found = std::any_of(points.begin(), points.end(),
                                   [](const TradePoint& p) { return reachOf(p) == Reach::OfUse; });
    if (!found && low == high) return {true, true};
    return {low == Reach::OfUse, high == Reach::OfUse};
}

/// From one end to the other, however far the limit as it stands is from where it should be.
Result<std::vector<TradePoint>> wideSweep(Study& study, const ProveRequest& request, const TradeCurve& curve,
                                          const Progress& progress) {
    const double now = curve.settings.at(curve.limit), reach = now == 0 ? 1 : std::abs(now);
    double low = now - reach, high = now + reach;
    for (int i = 1;; ++i) {
        auto points = sweep(study, request, curve, {curve.limit, low, high, kWideSteps},
                            progress.part(0.5 * (i - 1) / kDoublings, 0.5 * i / kDoublings));
        if (!points || i == kDoublings) return points;
        const auto [below, above] = goesOn(*points);
        if (!below && !above) return points;
        const double wide = high - low;
        if (below) low -= wide;
        if (above) high += wide;
    }
}

/// The steps between which anything happens that is of use, with one more on each side.
std::pair<double, double> partThatMatters(const std::vector<TradePoint>& points) {
    std::size_t first = points.size(), last = 0;
    for (std::size_t i = 0; i + 1 < points.size(); ++i) {
        if (sameCounts(points[i].tally, points[i + 1].tally)) continue;
        if (!isOfUse(points[i]) && !isOfUse(points[i + 1])) continue;
        first = std::min(first, i);
        last = i + 1;
    }
    if (first >= last) return {points.front().limit, points.back().limit};
    return {points[first].limit, points[last].limit};
}

std::vector<TradePoint> frontOfUse(std::vector<TradePoint> points) {
    std::erase_if(points, [](const TradePoint& p) { return !isOfUse(p) || p.tally.caught == 0; });
    std::vector<Tally> tallies;
    for (const TradePoint& p : points) tallies.push_back(p.tally);
    std::vector<TradePoint> out;
    for (const std::size_t i : frontOf(tallies)) out.push_back(points[i]);
    return out;
}

}  // namespace

Result<std::optional<TradeCurve>> tradeCurveOf(Study& study, const ProveRequest& request,
                                               const Progress& progress) {
    if (const auto whole = withSettings(request.rule, request.settings); !whole) return whole.error();
    const NamedNumbers named = withNamedNumbers(request.rule, request.settings);
    if (named.limits.empty()) return std::optional<TradeCurve>();
    // Only the limit becomes a setting; the other numbers stay in the text.
    const std::string limit = named.limits.front();
    Settings others = named.settings, settings = request.settings;
    std::erase_if(others, [&](const auto& s) { return s.first == limit || settings.contains(s.first); });
    settings[limit] = named.settings.at(limit);
    TradeCurve out{withSomeSettings(named.text, others), limit, settings, {}};
    const auto wide = wideSweep(study, request, out, progress);
    if (!wide) return wide.error();
    const auto [low, high] = partThatMatters(*wide);
    auto close = sweep(study, request, out, {out.limit, low, high, kSteps}, progress.part(0.5, 1));
    if (!close) return close.error();
    close->insert(close->end(), wide->begin(), wide->end());
    out.points = frontOfUse(std::move(*close));
    return std::optional<TradeCurve>(std::move(out));
}

}  // namespace jacinth
