// A video file as evidence, shown by Qt Multimedia where Jacinth was built with it.
#pragma once

#include <QTimer>

#include "app/label/picture_source.h"

class QMediaPlayer;
class QVideoFrame;

namespace jacinth::app {

/// Says in its trouble why a video cannot be shown: not built in, not there, or of a kind that this machine
/// cannot decode.
class VideoFile : public PictureSource {
    Q_OBJECT
  public:
    VideoFile(const Study& study, const EvidenceSource& source);
    std::optional<Instant> start() const override {
        return trouble_.isEmpty() ? std::optional(begins_) : std::nullopt;
    }
    QString extent() const override;
    void showAt(std::optional<Instant> t) override;
    std::optional<Instant> time() const override { return time_; }
    std::optional<Instant> further(int by, std::optional<Instant> from) const override;

  private:
    void open();
    void seek(Duration at);
    void seekPending();
    void showDecoded();
    void take(const QVideoFrame& frame);
    void fail(const QString& why);
    void clear();
    std::string path_;
    Instant begins_;
    bool ready_ = false;               ///< to be asked for pictures
    Duration length_{};                ///< zero: not known yet
    std::optional<Instant> time_;      ///< of the picture that is shown
    std::optional<Duration> asked_;    ///< sought, no picture yet
    std::optional<Duration> pending_;  ///< to be sought once that picture is there
    int tries_ = 0;                    ///< for the picture that is waited for
    QTimer* patience_;                 ///< runs while a picture is waited for
    std::optional<Duration> decodedAt_;
    QPixmap decoded_;  ///< the last picture that came
    QMediaPlayer* player_ = nullptr;
};

}  // namespace jacinth::app
