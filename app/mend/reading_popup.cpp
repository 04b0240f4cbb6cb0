#include "app/mend/reading_popup.h"

#include <QKeyEvent>

#include "app/base/ui.h"
#include "store/tracks.h"
#include "work/label/written.h"

namespace jacinth::app {
namespace {

constexpr int kWidth = 290;

}  // namespace

ReadingPopup::ReadingPopup(Session& session, QWidget* over) : QFrame(over), session_(session) {
    setObjectName("readingPopup");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(kWidth);
    title_ = makeLabel("", "section");
    when_ = new MomentField(session, "readingWhen", "When");
    value_ = makeField("readingValue", "Reads");
    by_ = makeField("readingBy", "By");
    keep_ = makeButton("Write down", "keepReading", true);
    remove_ = makeButton("Remove", "removeReading");
    auto* leave = makeButton("Leave", "leaveReading");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 10, 12, 10);
    column->setSpacing(6);
    column->addWidget(title_);
    addRow(column, "when", when_);
    addRow(column, "reads", value_);
    addRow(column, "by", by_);
    auto* buttons = new QHBoxLayout;
    for (QPushButton* b : {remove_, leave, keep_}) buttons->addWidget(b);
    column->addLayout(buttons);
    connect(keep_, &QPushButton::clicked, this, &ReadingPopup::take);
    connect(remove_, &QPushButton::clicked, this, &ReadingPopup::remove);
    connect(leave, &QPushButton::clicked, this, &QWidget::hide);
    for (QLineEdit* f : {static_cast<QLineEdit*>(when_), value_, by_})
        connect(f, &QLineEdit::returnPressed, this, &ReadingPopup::take);
    hide();
}

void ReadingPopup::write(TagId tag, Instant t, double value, const QPoint& at) {
    const Tag* of = session_.tag(tag);
    if (!of) return;
    span_ = Span{};
    span_.asset = of->asset;
    span_.tag = tag;
    span_.start = span_.end = std::chrono::floor<std::chrono::seconds>(t);
    span_.facts["by"] = session_.study().who();
    value_->setText(std::isfinite(value) ? QString::number(value, 'g', 4) : QString());
    open(at);
}

bool ReadingPopup::change(TagId tag, Instant t, const QPoint& at) {
    for (const Span& s : session_.study().tracks().spansOf(track_kind::kReadings)) {
        if (s.tag != tag || s.start != t) continue;
        span_ = s;
        value_->setText(QString::number(factNumber(s.facts, "value"), 'g', 10));
        open(at);
        return true;
    }
    return false;
}

void ReadingPopup::open(const QPoint& at) {
    const Tag* tag = session_.tag(span_.tag);
    title_->setText(QString(span_.id ? "Check reading of %1" : "New check reading of %1")
                        .arg(tag ? QString::fromStdString(tag->name) : QString()));
    by_->setText(QString::fromStdString(factText(span_.facts, "by")));
    when_->setMoment(span_.start);
    when_->setModified(false);
    markWrong(value_, false);
    keep_->setText(span_.id ? "Change" : "Write down");
    remove_->setVisible(bool(span_.id));
    adjustSize();
    const QRect room = parentWidget()->rect().adjusted(4, 4, -4, -4);
    move(std::clamp(at.x() + 12, room.left(), std::max(room.left(), room.right() - width())),
         std::clamp(at.y() - height() / 2, room.top(), std::max(room.top(), room.bottom() - height())));
    show();
    raise();
    value_->setFocus();
    value_->selectAll();
}

void ReadingPopup::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape) return hide();
    QFrame::keyPressEvent(e);
}

void ReadingPopup::take() {
    bool number = false;
    const double value =
        value_->text().trimmed().replace(',', '.').replace(QChar(0x2212), '-').toDouble(&number);
    const auto when = when_->moment();
    markWrong(value_, !number || !std::isfinite(value), "no number");
    markWrong(when_, !when, "write a time like 4 Apr 2026 06:00");
    if (!number || !std::isfinite(value) || !when) return;
    Span span = span_;
    if (when_->isModified()) span.start = *when;
    span.end = span.start;
    span.facts["value"] = value;
    span.facts["by"] = by_->text().trimmed().toStdString();
    bool good = false;
    session_.tryChange([&] {
        good = session_.report(
            keepWritten(session_.study(), span, {track_kind::kReadings, "Check readings", "check reading"}));
    });
    if (good) hide();
}

void ReadingPopup::remove() {
    bool good = false;
    session_.tryChange([&] { good = session_.report(removeWritten(session_.study(), span_.id)); });
    if (good) hide();
}

}  // namespace jacinth::app
