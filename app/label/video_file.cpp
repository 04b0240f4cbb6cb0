#include "app/label/video_file.h"

#include <QFileInfo>
#ifdef JACINTH_MULTIMEDIA
#include <QMediaMetaData>
#include <QMediaPlayer>
#include <QUrl>
#include <QVideoFrame>
#include <QVideoSink>
#endif

#include "store/write_file.h"
#include "work/label/evidence_files.h"

namespace jacinth::app {

VideoFile::VideoFile(const Study& study, const EvidenceSource& source)
    : path_(evidencePath(study, source).string()), begins_(source.begins), patience_(new QTimer(this)) {
    const QString path = QString::fromStdString(path_);
    if (!QFileInfo(path).isReadable())
        trouble_ = path + " cannot be read.";
    else
        open();
}

#ifdef JACINTH_MULTIMEDIA

namespace {

constexpr Duration kFrame = kSecond / 25;  // where the file does not say how many there are a second
constexpr int kMostTries = 4;
constexpr int kPatienceMs = 700;  // a decoder that gave nothing in that time is asked again

Duration milliseconds(qint64 ms) {
    return std::chrono::milliseconds(ms);
}

}  // namespace

void VideoFile::open() {
    patience_->setSingleShot(true);
    connect(patience_, &QTimer::timeout, this, [this] {
        if (!pending_ && ++tries_ < kMostTries) pending_ = asked_;
        seekPending();
    });
    player_ = new QMediaPlayer(this);
    if (!player_->isAvailable())
        return fail("Videos cannot be shown: Qt Multimedia finds nothing on this machine to decode them.");
    auto* sink = new QVideoSink(this);
    player_->setVideoSink(sink);
    connect(sink, &QVideoSink::videoFrameChanged, this, &VideoFile::take);
    connect(player_, &QMediaPlayer::errorOccurred, this, [this](QMediaPlayer::Error, const QString& why) {
        fail(QString("%1: %2").arg(QString::fromStdString(path_), why));
    });
    connect(player_, &QMediaPlayer::durationChanged, this, [this](qint64 ms) {
        length_ = milliseconds(ms);
        emit shown();
    });
    connect(player_, &QMediaPlayer::mediaStatusChanged, this, [this](QMediaPlayer::MediaStatus status) {
        ready_ = ready_ || status == QMediaPlayer::LoadedMedia || status == QMediaPlayer::BufferedMedia;
        if (ready_) seekPending();
    });
    if (const Status plain = checkPlainFile(path_); !plain)
        return fail(QString::fromStdString(plain.error().message));
    player_->setSource(QUrl::fromLocalFile(QString::fromStdString(path_)));
    player_->pause();
}

void VideoFile::fail(const QString& why) {
    trouble_ = why;
    clear();
}

void VideoFile::clear() {
    time_.reset();
    picture_ = QPixmap();
    emit shown();
}

QString VideoFile::extent() const {
    return length_ > Duration::zero() ? "video of " + QString::fromStdString(sayDuration(length_)) : "video";
}

void VideoFile::showAt(std::optional<Instant> t) {
    if (!player_ || !trouble_.isEmpty()) return;
    const bool outside = !t || *t < begins_ || (length_ > Duration::zero() && *t >= begins_ + length_);
    if (outside) {
        asked_.reset();
        pending_.reset();
        if (time_) clear();
        return;
    }
    const Duration at = *t - begins_;
    tries_ = 0;
    if (!ready_ || patience_->isActive())
        pending_ = at;
    else if (time_ != begins_ + at)
        seek(at);
}

void VideoFile::seek(Duration at) {
    if (length_ > Duration::zero() && at >= length_) return;
    asked_ = at;
    // Asked for the place where it stands a player gives no picture.
    if (decodedAt_ == at) return showDecoded();
    patience_->start(kPatienceMs);
    player_->setPosition(std::chrono::floor<std::chrono::milliseconds>(at).count());
}

void VideoFile::seekPending() {
    if (pending_) seek(*std::exchange(pending_, {}));
}

void VideoFile::take(const QVideoFrame& frame) {
    if (!asked_ || !frame.isValid()) return;
    const QImage image = frame.toImage();
    if (image.isNull()) return;
    patience_->stop();
    decodedAt_ = asked_;
    decoded_ = QPixmap::fromImage(image);
    showDecoded();
    seekPending();
}

void VideoFile::showDecoded() {
    picture_ = decoded_;
    time_ = begins_ + *std::exchange(asked_, {});
    emit shown();
}

std::optional<Instant> VideoFile::further(int by, std::optional<Instant> from) const {
    const auto here = time_ ? time_ : from;
    if (!here || length_ == Duration::zero()) return {};
    const Instant last = begins_ + length_ - kNanosecond;
    if (!time_ && by > 0 && *here < begins_) return begins_;
    if (!time_ && by < 0 && *here > last) return last;
    const double rate = player_->metaData().value(QMediaMetaData::VideoFrameRate).toDouble();
    const Duration frame = rate > 0 ? fromSeconds(1 / rate) : kFrame;
    const Instant to = *here + by * frame;
    return to >= begins_ && to <= last ? std::optional(to) : std::nullopt;
}

#else

void VideoFile::open() {
    trouble_ =
        "Jacinth was built without Qt Multimedia, so videos are not shown. Folders of frames with times in "
        "their names are.";
}

QString VideoFile::extent() const {
    return "video";
}

void VideoFile::showAt(std::optional<Instant>) {}

std::optional<Instant> VideoFile::further(int, std::optional<Instant>) const {
    return {};
}

#endif

}  // namespace jacinth::app
