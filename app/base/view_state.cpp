#include "app/base/view_state.h"

#include <QDateTime>
#include <algorithm>

namespace jacinth::app {

void ViewState::setRecord(TimeRange record) {
    record_ = record.length() > Duration::zero() ? record : kNoRecord;
    setView(view_, false);
}

void ViewState::setView(TimeRange view, bool keep) {
    const Duration most = record_.length() + record_.length() / 10;
    Duration length = std::clamp<Duration>(view.length(), kSecond, std::max<Duration>(most, kMinute));
    const Duration margin = std::max(record_.length() / 60, std::min(length / 4, record_.length() / 30));
    Instant from = std::clamp(view.from, record_.from - margin,
                              std::max(record_.from - margin, record_.to + margin - length));
    const TimeRange next{from, from + length};
    if (next == view_) return;
    view_ = next;
    if (keep) remember();
    emit viewChanged();
}

void ViewState::goTo(Instant from, Instant to) {
    const Duration margin = std::max<Duration>((to - from) / 2, 6 * kHour);
    setView({from - margin, to + margin});
}

void ViewState::setCursor(int which, std::optional<Instant> t) {
    if (cursors_[static_cast<std::size_t>(which)] == t) return;
    cursors_[static_cast<std::size_t>(which)] = t;
    emit cursorChanged();
}

void ViewState::select(AssetId asset, TagId tag) {
    if (asset == asset_ && tag == tag_) return;
    asset_ = asset;
    tag_ = tag;
    emit selectionChanged();
}

void ViewState::selectRun(SpanId run) {
    if (run == run_) return;
    run_ = run;
    emit runChanged();
}

void ViewState::setLaidOver(LaidOver laidOver) {
    if (laidOver == laidOver_) return;
    laidOver_ = laidOver;
    emit laidOverChanged();
}

void ViewState::setWhich(Which which) {
    if (which == which_) return;
    which_ = which;
    emit whichChanged();
}

void ViewState::setGrouping(const Grouping& grouping) {
    if (grouping == grouping_) return;
    grouping_ = grouping;
    emit groupingChanged();
}

void ViewState::jumpTo(TimeRange view) {
    rememberedAt_ = 0;
    setView(view);
    rememberedAt_ = 0;
}

void ViewState::setBench(BenchId bench) {
    if (bench == bench_) return;
    bench_ = bench;
    rememberedAt_ = 0;
    remember();
    emit benchChanged();
}

void ViewState::setShown(std::vector<TagId> tags) {
    if (tags == shown_) return;
    shown_ = std::move(tags);
    emit shownChanged();
}

void ViewState::setArrangement(std::vector<ArrangedPane> panes) {
    if (panes == arrangement_) return;
    arrangement_ = std::move(panes);
    emit shownChanged();
}

void ViewState::remember() {
    if (revisiting_) return;
    const Place now{view_, bench_};
    const std::int64_t at = QDateTime::currentMSecsSinceEpoch();
    // One place for a whole gesture: steps less than half a second apart move the same entry.
    if (place_ >= 0 && at - rememberedAt_ < 500 &&
        places_[static_cast<std::size_t>(place_)].bench == bench_) {
        places_[static_cast<std::size_t>(place_)] = now;
    } else if (place_ < 0 || !(places_[static_cast<std::size_t>(place_)] == now)) {
        places_.resize(static_cast<std::size_t>(place_) + 1);
        places_.push_back(now);
        if (places_.size() > 200) places_.erase(places_.begin());
        place_ = static_cast<int>(places_.size()) - 1;
    }
    rememberedAt_ = at;
}

void ViewState::revisit(int place) {
    if (place < 0 || place >= static_cast<int>(places_.size())) return;
    place_ = place;
    revisiting_ = true;
    setBench(places_[static_cast<std::size_t>(place)].bench);
    setView(places_[static_cast<std::size_t>(place)].view);
    revisiting_ = false;
    rememberedAt_ = 0;
}

}  // namespace jacinth::app
