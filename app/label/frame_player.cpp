#include "app/label/frame_player.h"

#include <QVBoxLayout>

#include "app/base/ui.h"

namespace jacinth::app {
namespace {

QString offsetText(Duration offset) {
    if (offset == Duration::zero()) return "clock as it is";
    return QString("clock %1%2")
        .arg(offset > Duration::zero() ? "+" : "−",
             QString::fromStdString(formatDuration(std::chrono::abs(offset))));
}

}  // namespace

FramePlayer::FramePlayer(Session& session, const EvidenceSource& source)
    : session_(session), source_(source), pictures_(openPictures(session.study(), source)) {
    setObjectName("player_" + QString::fromStdString(source.name));
    name_ = makeLabel("", "section");
    picture_ = new QLabel;
    picture_->setObjectName("evidencePicture");
    picture_->setAlignment(Qt::AlignCenter);
    picture_->setMinimumSize(120, 90);
    picture_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Expanding);
    picture_->setWordWrap(true);
    time_ = makeLabel("", "second");
    time_->setObjectName("evidenceTime");
    time_->setWordWrap(true);
    hold_ = makeButton("Hold", "evidenceHold");
    hold_->setCheckable(true);
    hold_->setToolTip("The picture stays while the cursor moves: to line up a moment of both");
    lineUp_ = makeButton("Same moment", "evidenceLineUp");
    lineUp_->setToolTip("The held picture shows what the cursor stands at: the source's clock is set by it");
    lineUp_->setEnabled(false);
    for (QPushButton* b : {hold_, lineUp_})
        b->setFocusPolicy(Qt::TabFocus);  // a click leaves the keys elsewhere
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(hold_);
    buttons->addWidget(lineUp_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(name_);
    column->addWidget(picture_, 1);
    column->addWidget(time_);
    column->addLayout(buttons);
    connect(hold_, &QPushButton::toggled, this, [this](bool on) {
        lineUp_->setEnabled(on && frameTime());
        if (!on) follow(session_.view().cursor(0));
    });
    connect(lineUp_, &QPushButton::clicked, this, &FramePlayer::lineUpAsked);
    connect(pictures_.get(), &PictureSource::shown, this, [this] {
        draw();
        emit changed();
    });
    setSource(source);
}

void FramePlayer::setSource(const EvidenceSource& source) {
    source_ = source;
    name_->setText(QString::fromStdString(source.name));
    name_->setToolTip(plainTip(QString::fromStdString(source.path) + "\n" + offsetText(source.offset) +
                               (source.how.empty() ? QString() : ": " + QString::fromStdString(source.how))));
    draw();
}

std::optional<Instant> FramePlayer::shown() const {
    const auto t = frameTime();
    return t ? std::optional(*t + source_.offset) : std::nullopt;
}

void FramePlayer::follow(std::optional<Instant> cursor) {
    if (!held()) pictures_->showAt(cursor ? std::optional(*cursor - source_.offset) : std::nullopt);
    draw();
}

std::optional<Instant> FramePlayer::further(int by) const {
    const auto cursor = session_.view().cursor(0);
    const auto to = pictures_->further(by, cursor ? std::optional(*cursor - source_.offset) : std::nullopt);
    return to ? std::optional(*to + source_.offset) : std::nullopt;
}

void FramePlayer::stepHeld(int by) {
    if (const auto to = pictures_->further(by, frameTime())) pictures_->showAt(to);
}

void FramePlayer::say(const QString& words) {
    picture_->setPixmap({});
    picture_->setText(words);
}

void FramePlayer::draw() {
    const auto t = frameTime();
    lineUp_->setEnabled(held() && t);
    hold_->setEnabled(t || held());
    if (!pictures_->trouble().isEmpty()) return say(pictures_->trouble());
    if (!t) {
        say(session_.view().cursor(0)
                ? "Nothing was filmed at the cursor. The step keys go to the next frame."
                : "Put the cursor somewhere (C): the picture follows it.");
        time_->setText(pictures_->extent() + ", " + offsetText(source_.offset));
        return;
    }
    time_->setText(QString("%1 by its clock, %2%3")
                       .arg(QString::fromStdString(session_.zone().preciseText(*t)),
                            offsetText(source_.offset), held() ? ", held" : ""));
    const QPixmap& pixmap = pictures_->picture();
    if (pixmap.isNull()) return say("The picture cannot be read.");
    const QSize room = picture_->size();
    picture_->setPixmap(pixmap.scaled(room, Qt::KeepAspectRatio, Qt::SmoothTransformation));
}

}  // namespace jacinth::app
