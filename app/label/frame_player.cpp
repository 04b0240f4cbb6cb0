#include "app/label/frame_player.h"

#include <QImageReader>
#include <QVBoxLayout>

#include "app/base/ui.h"
#include "work/label/evidence_files.h"

namespace jacinth::app {
namespace {

constexpr Duration kLongest = 10 * kMinute;  // an older frame does not show what is now

QString offsetText(Duration offset) {
    if (offset == Duration::zero()) return "clock as it is";
    return QString("clock %1%2")
        .arg(offset > Duration::zero() ? "+" : "−",
             QString::fromStdString(formatDuration(std::chrono::abs(offset))));
}

}  // namespace

FramePlayer::FramePlayer(Session& session, const EvidenceSource& source)
    : session_(session), source_(source) {
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
        lineUp_->setEnabled(on && frame_ >= 0);
        if (!on) follow(session_.view().cursor(0));
    });
    connect(lineUp_, &QPushButton::clicked, this, &FramePlayer::lineUpAsked);
    setSource(source);
    load();
}

void FramePlayer::setSource(const EvidenceSource& source) {
    source_ = source;
    name_->setText(QString::fromStdString(source.name));
    name_->setToolTip(plainTip(QString::fromStdString(source.path) + "\n" + offsetText(source.offset) +
                               (source.how.empty() ? QString() : ": " + QString::fromStdString(source.how))));
    draw();
}

void FramePlayer::load() {
    folder_ = evidencePath(session_.study(), source_).string();
    if (source_.kind == EvidenceKind::Video) {
        trouble_ = "Videos are not shown yet: folders of frames with times in their names are.";
        return draw();
    }
    auto frames = framesOf(session_.study(), source_);
    if (frames)
        frames_ = std::move(*frames);
    else
        trouble_ = QString::fromStdString(frames.error().message);
    draw();
}

std::optional<Instant> FramePlayer::frameTime() const {
    return frame_ < 0 ? std::nullopt : std::optional(frames_[static_cast<std::size_t>(frame_)].time);
}

std::optional<Instant> FramePlayer::shown() const {
    const auto t = frameTime();
    return t ? std::optional(*t + source_.offset) : std::nullopt;
}

void FramePlayer::follow(std::optional<Instant> cursor) {
    if (held()) return draw();
    showFrame(cursor ? frameAt(frames_, *cursor - source_.offset, kLongest) : -1);
}

void FramePlayer::showFrame(int frame) {
    if (frame == frame_ && (frame < 0 || !pixmap_.isNull())) return draw();
    frame_ = frame;
    pixmap_ = QPixmap();
    if (frame >= 0) {
        QImageReader reader(
            QString::fromStdString(folder_ + "/" + frames_[static_cast<std::size_t>(frame)].file));
        pixmap_ = QPixmap::fromImageReader(&reader);
    }
    draw();
    emit changed();
}

std::optional<Instant> FramePlayer::further(int by) const {
    int at = frame_ + by;
    // Without one: the next that there is, from the cursor.
    if (frame_ < 0 && session_.view().cursor(0)) {
        const Instant t = *session_.view().cursor(0) - source_.offset;
        const auto next = std::upper_bound(frames_.begin(), frames_.end(), t,
                                           [](Instant a, const Frame& f) { return a < f.time; });
        at = static_cast<int>(next - frames_.begin()) + (by < 0 ? -1 : 0);
    }
    if (at < 0 || at >= static_cast<int>(frames_.size())) return {};
    return frames_[static_cast<std::size_t>(at)].time + source_.offset;
}

void FramePlayer::stepHeld(int by) {
    const int at = frame_ + by;
    if (frame_ >= 0 && at >= 0 && at < static_cast<int>(frames_.size())) showFrame(at);
}

void FramePlayer::say(const QString& words) {
    picture_->setPixmap({});
    picture_->setText(words);
}

void FramePlayer::draw() {
    lineUp_->setEnabled(held() && frame_ >= 0);
    hold_->setEnabled(frame_ >= 0 || held());
    if (!trouble_.isEmpty()) return say(trouble_);
    const auto t = frameTime();
    if (!t) {
        say(session_.view().cursor(0)
                ? "Nothing was filmed at the cursor. The step keys go to the next frame."
                : "Put the cursor somewhere (C): the picture follows it.");
        time_->setText(QString("%1 frames, %2").arg(frames_.size()).arg(offsetText(source_.offset)));
        return;
    }
    time_->setText(QString("%1 by its clock, %2%3")
                       .arg(QString::fromStdString(session_.zone().preciseText(*t)),
                            offsetText(source_.offset), held() ? ", held" : ""));
    if (pixmap_.isNull()) return say("The picture cannot be read.");
    const QSize room = picture_->size();
    picture_->setPixmap(pixmap_.scaled(room, Qt::KeepAspectRatio, Qt::SmoothTransformation));
}

std::vector<double> FramePlayer::brightnessOf(const std::string& folder, const std::vector<Frame>& frames) {
    std::vector<double> out;
    for (const Frame& frame : frames) {
        const QImage image(QString::fromStdString(folder + "/" + frame.file));
        if (image.isNull()) {
            out.push_back(std::nan(""));
            continue;
        }
        const QImage grey = image.scaled(32, 32).convertToFormat(QImage::Format_Grayscale8);
        double sum = 0;
        for (int y = 0; y < grey.height(); ++y)
            for (int x = 0; x < grey.width(); ++x) sum += grey.constScanLine(y)[x];
        out.push_back(sum / (grey.width() * grey.height()));
    }
    return out;
}

}  // namespace jacinth::app
