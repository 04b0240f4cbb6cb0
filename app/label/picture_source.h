// What a source of evidence shows at a moment of its own clock: a folder of frames, one picture, or a video.
#pragma once

#include <QObject>
#include <QPixmap>
#include <memory>

#include "core/label/evidence.h"
#include "store/study.h"

namespace jacinth::app {

/// All times are the source's own; the caller adds its offset.
class PictureSource : public QObject {
    Q_OBJECT
  public:
    /// Why nothing can be shown; empty where all is well.
    const QString& trouble() const { return trouble_; }
    virtual std::optional<Instant> start() const = 0;  ///< of the first picture
    virtual QString extent() const = 0;                ///< `2190 frames`, `video of 1 h 20 min`
    /// Turns to what was taken then; `shown` follows, of a video somewhat later. None: nothing.
    virtual void showAt(std::optional<Instant> t) = 0;
    /// When the picture that is shown was taken.
    virtual std::optional<Instant> time() const = 0;
    /// The time of the picture that many further than what is shown, or else than `from`; none at the ends.
    virtual std::optional<Instant> further(int by, std::optional<Instant> from) const = 0;
    const QPixmap& picture() const { return picture_; }  ///< null: none, or it cannot be read

  signals:
    void shown();

  protected:
    QString trouble_;
    QPixmap picture_;
};

std::unique_ptr<PictureSource> openPictures(const Study& study, const EvidenceSource& source);

}  // namespace jacinth::app
