#include "work/mend/sample_rows.h"

#include <algorithm>

#include "core/base/missing.h"
#include "store/judgement.h"

namespace jacinth {
namespace {

constexpr std::int64_t kReadable = 60'000;  // counts are of whole blocks: below this they say little

/// Halves the range about a moment until it holds few enough to be read.
TimeRange cutTo(const Study& study, TagId tag, TimeRange range, Instant middle, std::int64_t most) {
    middle = std::clamp(middle, range.from, range.to);
    while (range.length() > kSecond && study.reader(tag).countAbout(tag, range) > std::max(most, kReadable)) {
        const Duration quarter = range.length() / 4;
        const Instant from = std::clamp(middle - quarter, range.from, range.to - 2 * quarter);
        range = {from, from + 2 * quarter};
    }
    return range;
}

/// Leaves as many rows as are wanted about a moment, and the range that they fill.
void trimTo(SampleRows& all, Instant middle, std::int64_t most) {
    const auto n = static_cast<std::int64_t>(all.rows.size());
    if (n <= most) return;
    const auto at = std::lower_bound(all.rows.begin(), all.rows.end(), middle,
                                     [](const SampleRow& row, Instant t) { return row.time < t; });
    const std::int64_t first = std::clamp<std::int64_t>(at - all.rows.begin() - most / 2, 0, n - most);
    if (first + most < n) all.range.to = all.rows[static_cast<std::size_t>(first + most)].time;
    if (first > 0) all.range.from = all.rows[static_cast<std::size_t>(first)].time;
    all.rows.erase(all.rows.begin() + first + most, all.rows.end());
    all.rows.erase(all.rows.begin(), all.rows.begin() + first);
}

void addFixes(const std::vector<Fix>& fixes, SampleRow& row) {
    for (const Fix& fix : fixes) {
        if (!fix.on || !fix.touches({row.time, row.time + kNanosecond})) continue;
        const auto* hide = std::get_if<HideFix>(&fix.body);
        const bool spared = hide && !hide->parts.empty() &&
                            std::none_of(hide->parts.begin(), hide->parts.end(),
                                         [&](TimeRange p) { return p.from <= row.time && row.time <= p.to; });
        if (!spared) row.fixes.push_back(fix.id);
    }
}

}  // namespace

SampleRows samplesIn(const Study& study, const Tag& tag, TimeRange range, Instant middle, std::int64_t most) {
    SampleRows out;
    out.range = cutTo(study, tag.id, range, middle, most);
    const Series loggedAll = study.read(tag, out.range, Which::AsLogged),
                 mendedAll = study.read(tag, out.range, Which::Mended);
    const SeriesView logged = loggedAll.view().within(out.range), mended = mendedAll.view().within(out.range);
    const auto& fixes = study.judgement().fixes(tag.id);
    for (std::size_t i = 0, j = 0; i < logged.size() || j < mended.size();) {
        SampleRow row;
        row.isLogged = j == mended.size() || (i < logged.size() && logged.times[i] <= mended.times[j]);
        row.isMended = i == logged.size() || (j < mended.size() && mended.times[j] <= logged.times[i]);
        row.logged = row.mended = kMissing;
        if (row.isLogged) {
            row.time = logged.times[i];
            row.logged = logged.values[i];
            row.loggedQuality = logged.qualityAt(i++);
        }
        if (row.isMended) {
            row.time = mended.times[j];
            row.mended = mended.values[j];
            row.mendedQuality = mended.qualityAt(j++);
        }
        out.rows.push_back(std::move(row));
    }
    trimTo(out, middle, most);
    for (SampleRow& row : out.rows) addFixes(fixes, row);
    return out;
}

}  // namespace jacinth
