// The handles of the fix in hand: where they stand, how they are dragged and stepped.
#include <QGuiApplication>

#include "app/mend/fixes_page.h"
#include "app/plot/tag_trace.h"
#include "work/mend/fix_in_hand.h"

namespace jacinth::app {
namespace {

constexpr int kFirstOfStretches = 1000;  // ids of handles: beyond those of a fix's grips

/// To the digits that a pixel of the scale can show.
double toPixelDigits(double v, double perPixel) {
    if (!(perPixel > 0) || !std::isfinite(perPixel)) return v;
    const double step = std::pow(10, std::floor(std::log10(perPixel)));
    // Divided by a whole number where there is one: 0.3 and not 0.30000000000000004.
    return step >= 1 ? std::round(v / step) * step : std::round(v / step) / std::round(1 / step);
}

}  // namespace

void FixesPage::lookAt(Instant t) {
    const Duration half = session_.view().view().length() / 2;
    const Duration near = std::min(half, std::max<Duration>(kHour, (draft_.to - draft_.from) / 8));
    session_.view().jumpTo({t - near, t + near});
}

void FixesPage::showHandles(const FixContext& now) {
    std::vector<Handle> handles;
    const bool numbers = tag() && tag()->kind != TagKind::State;
    if (numbers)
        for (const Grip& g : gripsOf(draft_)) {
            const char* name = g.id == 0 ? "start" : g.id == 1 ? "end" : "";
            const double value = now.valueAt(g.time) + g.by.value_or(0);
            handles.push_back(
                {g.id, g.time, 0,
                 g.by ? (QString(name) + " " + valueText(*g.by, {}, true)).trimmed() : QString(name),
                 g.by && std::isfinite(value) ? std::optional(value) : std::nullopt});
        }
    if (numbers && marksTwoStretches())
        for (int id = 0; id < 4; ++id)
            handles.push_back({kFirstOfStretches + id, edgeOfStretches(id), 0, "", {}});
    plot_->setHandles(std::move(handles));
    plot_->setShade(numbers ? std::optional(TimeRange{draft_.from, draft_.to}) : std::nullopt);
}

double FixesPage::valuePerPixel() const {
    return std::abs(plot_->valueAt(0, 0) - plot_->valueAt(0, 1));
}

/// The edges of the two stretches, in order of time.
Instant& FixesPage::edgeOfStretches(int edge) {
    TimeRange& of = edge < 2 ? twoStretches_->first : twoStretches_->second;
    return edge % 2 == 0 ? of.from : of.to;
}

void FixesPage::takeHandle(int id) {
    for (const Grip& g : gripsOf(draft_))
        if (g.id == id) takenAmount_ = g.by.value_or(0);
}

void FixesPage::moveHandle(int id, Instant t, double lifted) {
    if (!tag()) return;
    if (id >= kFirstOfStretches) {
        const int edge = id - kFirstOfStretches;
        const Instant least = edge > 0 ? edgeOfStretches(edge - 1) + kSecond : Instant::min(),
                      most = edge < 3 ? edgeOfStretches(edge + 1) - kSecond : Instant::max();
        edgeOfStretches(edge) = std::clamp(t, least, std::max(least, most));
        return showDraft();
    }
    // The amount follows the pointer up and down alone: a sideways pull keeps it.
    const bool loose = QGuiApplication::keyboardModifiers() & Qt::AltModifier;
    moveGrip(draft_, id, loose ? t : edgeAt(session_, *plot_, tag()->id, t));
    setGripAmount(draft_, id,
                  lifted == 0 ? takenAmount_ : toPixelDigits(takenAmount_ + lifted, valuePerPixel()));
    showDraft();
}

void FixesPage::stepHandle(int id, int samples, int steps) {
    if (!tag()) return;
    for (const Grip& g : gripsOf(draft_)) {
        if (g.id != id) continue;
        const Duration spacing = std::max<Duration>(tag()->spacing, kSecond);
        if (samples != 0)
            moveGrip(draft_, id, edgeAt(session_, *plot_, tag()->id, g.time + samples * spacing));
        // A step that fits the axis: two pixels, rounded to a digit.
        const double step = std::pow(10, std::floor(std::log10(2 * valuePerPixel())));
        if (steps != 0 && g.by && std::isfinite(step))
            setGripAmount(draft_, id, toPixelDigits(*g.by + steps * step, step));
    }
    showDraft();
}

}  // namespace jacinth::app
