// What mouse and keys do to the marks.
#include <QApplication>
#include <QKeyEvent>

#include "app/label/marks_page.h"
#include "app/plot/tag_trace.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {

void MarksPage::clickBracket(SpanId id, Qt::KeyboardModifiers modifiers) {
    if (!id) return choose({});
    if (!(modifiers & (Qt::ShiftModifier | Qt::ControlModifier))) return choose({id});
    std::vector<SpanId> ids = chosen_;
    if (std::erase(ids, id) == 0) ids.push_back(id);
    choose(std::move(ids));
}

/// What the band touches; with Shift beside what is chosen already.
void MarksPage::band(TimeRange range, Qt::KeyboardModifiers modifiers) {
    std::vector<SpanId> ids = modifiers & Qt::ShiftModifier ? chosen_ : std::vector<SpanId>();
    for (const SpanId id : plot_->brackets()->within(range))
        if (std::find(ids.begin(), ids.end(), id) == ids.end()) ids.push_back(id);
    choose(std::move(ids));
}

Instant MarksPage::snapped(Instant t) const {
    const bool off = QApplication::keyboardModifiers().testFlag(Qt::ControlModifier);
    return edgeAt(session_, *plot_, off ? TagId() : session_.view().tag(), t);
}

void MarksPage::pull(SpanId id, BracketLanes::Part part, Duration by) {
    if (std::find(chosen_.begin(), chosen_.end(), id) == chosen_.end()) choose({id});
    std::vector<Span> moved;
    for (Span s : chosenSpans()) {
        const bool edgeOfOther = part != BracketLanes::Part::Whole && s.id != id;
        if (edgeOfOther) continue;
        const Duration length = s.end - s.start;
        if (part != BracketLanes::Part::End) s.start = snapped(s.start + by);
        if (part == BracketLanes::Part::Whole) s.end = s.start + length;
        if (part == BracketLanes::Part::End) s.end = snapped(s.end + by);
        if (s.end > s.start) moved.push_back(std::move(s));
    }
    if (moved.empty()) return;
    moving_ = std::move(moved);
    showMarks();
}

void MarksPage::moveEdge(int handle, Instant t) {
    if (moving_.empty()) moving_ = chosenSpans();
    if (moving_.size() != 1) return;
    const Instant at = snapped(t);
    if (handle == 0 && at < moving_[0].end) moving_[0].start = at;
    if (handle == 1 && at > moving_[0].start) moving_[0].end = at;
    showMarks();
}

void MarksPage::commitMoved(const QString& step) {
    const std::vector<Span> moved = std::exchange(moving_, {});
    bool any = false;
    for (const Span& s : chosenSpans())
        for (const Span& m : moved) any = any || (m.id == s.id && m.range() != s.range());
    if (!any) return showMarks();
    session_.tryChange([&] { session_.report(changeLabels(session_.study(), moved, step.toStdString())); });
}

Instant MarksPage::sampleFrom(Instant t, int by) const {
    const Tag* tag = session_.tag(session_.view().tag());
    const Instant otherwise = t + by * kSecond;
    if (!tag) return otherwise;
    const Duration reach = (std::abs(by) + 2) * std::max<Duration>(10 * tag->spacing, kMinute);
    const Series near = session_.study().read(*tag, {t - reach, t + reach}, Which::AsLogged);
    const auto at = by > 0 ? std::upper_bound(near.times.begin(), near.times.end(), t) + (by - 1)
                           : std::lower_bound(near.times.begin(), near.times.end(), t) + by;
    return at >= near.times.begin() && at < near.times.end() ? *at : otherwise;
}

void MarksPage::stepEdge(int handle, int samples) {
    if (samples == 0) return;
    auto spans = chosenSpans();
    if (spans.size() != 1) return;
    Instant& edge = handle == 0 ? spans[0].start : spans[0].end;
    edge = sampleFrom(edge, samples);
    if (spans[0].end <= spans[0].start) return;
    moving_ = spans;
    commitMoved("move label");
}

void MarksPage::nudge(int samples) {
    std::vector<Span> spans = chosenSpans();
    for (Span& s : spans) {
        const Duration length = s.end - s.start;
        s.start = sampleFrom(s.start, samples);
        s.end = s.start + length;
    }
    moving_ = std::move(spans);
    commitMoved(chosen_.size() > 1 ? "move labels" : "move label");
}

void MarksPage::snapChosen() {
    std::vector<Span> spans = chosenSpans();
    const Tag* tag = session_.tag(session_.view().tag());
    if (!tag || spans.empty()) {
        emit session_.failed("Choose a mark, and the tag to whose samples it is to snap.");
        return;
    }
    const auto nearest = [&](Instant t) {
        const Instant before = sampleFrom(t + kNanosecond, -1), after = sampleFrom(t - kNanosecond, 1);
        return t - before <= after - t ? before : after;
    };
    for (Span& s : spans) {
        s.start = nearest(s.start);
        s.end = nearest(s.end);
    }
    std::erase_if(spans, [](const Span& s) { return s.end <= s.start; });
    moving_ = std::move(spans);
    commitMoved("snap to samples");
}

void MarksPage::holdEdge(bool start) {
    if (chosen_.size() != 1) {
        emit session_.failed("Choose one mark first.");
        return;
    }
    plot_->setFocus();
    plot_->holdHandle(start ? 0 : 1);
}

void MarksPage::name(const std::string& kind) {
    if (chosen_.empty()) {
        emit session_.failed("Choose a mark first: drag over the traces, or click one.");
        return;
    }
    session_.tryChange([&] { session_.report(nameLabels(session_.study(), chosen_, kind)); });
}

void MarksPage::removeChosen() {
    if (chosen_.empty()) return;
    session_.tryChange([&] { session_.report(removeLabels(session_.study(), chosen_)); });
}

void MarksPage::splitChosen() {
    const auto at = session_.view().cursor(0) ? session_.view().cursor(0) : plot_->pointer();
    if (chosen_.size() != 1 || !at) {
        emit session_.failed("Choose one mark, and put the cursor (C) where it is to be cut.");
        return;
    }
    session_.tryChange([&] {
        const auto later = splitLabel(session_.study(), current(), snapped(*at));
        if (session_.report(later)) chosen_ = {*later};
    });
}

void MarksPage::mergeChosen() {
    session_.tryChange([&] {
        const auto whole = mergeLabels(session_.study(), chosen_);
        if (session_.report(whole)) chosen_ = {*whole};
    });
}

void MarksPage::searchAlike() {
    if (current()) return emit alikeAsked(current());
    emit session_.failed("Choose a mark first: it is the example.");
}

void MarksPage::chooseAllShown() {
    choose(list_->shown());
}

void MarksPage::step(int by) {
    if (const SpanId next = list_->next(current(), by, false)) open(next);
}

void MarksPage::nextUnnamed(int by) {
    if (const SpanId next = list_->next(current(), by, true)) return open(next);
    emit session_.notified(by > 0 ? "Every mark from here on has its name."
                                  : "Every mark before has its name.");
}

bool MarksPage::takeKey(QKeyEvent* key, bool onPlot) {
    const bool control = key->modifiers() & Qt::ControlModifier;
    switch (key->key()) {
        case Qt::Key_Delete:
            removeChosen();
            return true;
        case Qt::Key_Down:
        case Qt::Key_Up: {
            const int by = key->key() == Qt::Key_Down ? 1 : -1;
            if (control) return nextUnnamed(by), true;
            if (onPlot) return step(by), true;
            return false;
        }
        case Qt::Key_Space:
        case Qt::Key_Comma:
        case Qt::Key_Period:
            if (!showsEvidence() || !onPlot) return false;
            if (key->key() == Qt::Key_Space) return evidence_->togglePlay(), true;
            return evidence_->step(key->key() == Qt::Key_Period ? 1 : -1), true;
        case Qt::Key_A:
            if (control) return chooseAllShown(), true;
            break;
        case Qt::Key_Escape:
            if (!chosen_.empty() && !plot_->holdsHandle()) return choose({}), true;
            break;
        default:
            break;
    }
    const bool plain = !(key->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
    if (!plain || key->text().size() != 1 || chosen_.empty()) return false;
    for (const LabelKind& k : session_.study().judgement().labelBook())
        if (k.key && key->text() == QString(QChar(k.key))) {
            name(k.name);
            return true;
        }
    return false;
}

bool MarksPage::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::KeyPress && takeKey(static_cast<QKeyEvent*>(e), watched == plot_)) return true;
    return BenchPage::eventFilter(watched, e);
}

}  // namespace jacinth::app
