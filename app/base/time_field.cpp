#include "app/base/time_field.h"

#include <QRegularExpression>

#include "app/base/ui.h"
#include "core/time/time_phrase.h"
#include "store/tracks.h"

namespace jacinth::app {

TimeField::TimeField(Session& session, QWidget* parent) : QLineEdit(parent), session_(session) {
    setObjectName("timeField");
    setAccessibleName("Time in view");
    setToolTip(
        "Time in view: `4 Apr 06:00 +2d`, `4 Apr to 9 Apr`, `last 3 weeks`, `run 30 of Kiln 3`, `all`");
    setFixedHeight(26);
    setMinimumWidth(190);
    connect(this, &QLineEdit::returnPressed, this, &TimeField::take);
    connect(&session.view(), &ViewState::viewChanged, this, &TimeField::show_);
    connect(&session, &Session::studyChanged, this, &TimeField::show_);
    show_();
}

void TimeField::show_() {
    markWrong(this, false);
    setText(QString::fromStdString(timePhrase(session_.zone(), session_.view().view())));
    setCursorPosition(0);
}

/// “run 30 of Kiln 3”, or “run 30” of the asset in view; none where the text is not such a phrase.
std::optional<Result<TimeRange>> runPhrase(Session& session, const QString& text) {
    static const QRegularExpression form("^\\s*run\\s+(\\d+)(?:\\s+of\\s+(.+?))?\\s*$",
                                         QRegularExpression::CaseInsensitiveOption);
    const auto match = form.match(text);
    if (!match.hasMatch()) return {};
    const Asset* asset = match.captured(2).isEmpty()
                             ? session.study().catalog().asset(session.view().asset())
                             : session.study().catalog().assetNamed(match.captured(2).toStdString());
    if (!asset)
        return Result<TimeRange>(Error{"there is no asset `" + match.captured(2).toStdString() + "`"});
    for (const Span& s : session.study().tracks().spansOf(track_kind::kRuns))
        if (s.asset == asset->id && factNumber(s.facts, "number") == match.captured(1).toInt()) {
            session.lookAt(asset->id);
            const Duration margin = (s.end - s.start) / 10;
            return Result<TimeRange>(TimeRange{s.start - margin, s.end + margin});
        }
    return Result<TimeRange>(
        Error{asset->name + " has no run " + match.captured(1).toStdString() + "; Screen finds the runs"});
}

void TimeField::take() {
    const auto run = runPhrase(session_, text());
    const auto range = run ? *run
                           : parseTimePhrase(text().toStdString(), session_.zone(), session_.view().record(),
                                             session_.view().view());
    if (!range) {
        markWrong(this, true, QString::fromStdString(range.error().message));
        emit session_.failed(QString::fromStdString(range.error().message));
        return;
    }
    session_.view().setView(*range);
    show_();
}

QLayout* makeTitleRow(QWidget* title, Session& session) {
    auto* row = new QHBoxLayout;
    row->addWidget(title, 1);
    row->addWidget(new TimeField(session));
    return row;
}

MomentField::MomentField(Session& session, const QString& name, const QString& accessible)
    : session_(session) {
    setObjectName(name);
    setAccessibleName(accessible);
    setFixedHeight(26);
}

std::optional<Instant> MomentField::moment() const {
    const auto range = parseTimePhrase(text().toStdString(), session_.zone(), session_.view().record(),
                                       session_.view().view());
    return range ? std::optional(range->from) : std::nullopt;
}

void MomentField::setMoment(Instant t) {
    const std::string whole =
        session_.zone().wall(t).second ? session_.zone().preciseText(t) : session_.zone().text(t);
    setText(QString::fromStdString(whole));
    setCursorPosition(0);
    markWrong(this, false);
}

}  // namespace jacinth::app
