// One source of evidence: the picture that its camera took at the cursor, or, while it is held, another one.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "app/base/session.h"
#include "app/label/picture_source.h"

namespace jacinth::app {

class FramePlayer : public QWidget {
    Q_OBJECT
  public:
    FramePlayer(Session& session, const EvidenceSource& source);
    const EvidenceSource& source() const { return source_; }
    void setSource(const EvidenceSource& source);  ///< the same one with another offset
    /// What is seen, by the plant's clock; none where nothing is.
    std::optional<Instant> shown() const;
    /// The same by the source's own clock.
    std::optional<Instant> frameTime() const { return pictures_->time(); }
    bool held() const { return hold_->isChecked(); }
    void follow(std::optional<Instant> cursor);
    /// The plant's time of the picture so many further; none at the ends.
    std::optional<Instant> further(int frames) const;
    void stepHeld(int frames);  ///< of a held picture: the cursor stays
    const PictureSource& pictures() const { return *pictures_; }
    QPushButton* holdButton() const { return hold_; }
    QLabel* picture() const { return picture_; }

  signals:
    void lineUpAsked();
    void changed();  ///< another picture is shown

  protected:
    void resizeEvent(QResizeEvent*) override { draw(); }

  private:
    void draw();
    void say(const QString& words);

    Session& session_;
    EvidenceSource source_;
    std::unique_ptr<PictureSource> pictures_;
    QLabel *name_, *picture_, *time_;
    QPushButton *hold_, *lineUp_;
};

}  // namespace jacinth::app
