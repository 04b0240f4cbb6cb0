#include "app/shell/time_field.h"

#include "app/shell/ui.h"
#include "core/time/time_phrase.h"

namespace jacinth::app {

TimeField::TimeField(Session& session, QWidget* parent) : QLineEdit(parent), session_(session) {
    setObjectName("timeField");
    setAccessibleName("Time in view");
    setToolTip("Time in view: `4 Apr 06:00 +2d`, `4 Apr to 9 Apr`, `last 3 weeks`, `all`");
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

void TimeField::take() {
    const auto range = parseTimePhrase(text().toStdString(), session_.zone(), session_.view().record(),
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
