// Evidence beside the traces: pictures that follow the cursor and play, the shift log around it, and the
// clocks of cameras lined up.
#pragma once

#include <QComboBox>
#include <QTimer>
#include <QVBoxLayout>

#include "app/label/frame_player.h"

namespace jacinth::app {

class EvidencePanel : public QWidget {
    Q_OBJECT
  public:
    explicit EvidencePanel(Session& session);
    const std::vector<FramePlayer*>& players() const { return players_; }
    bool playing() const { return timer_->isActive(); }
    void togglePlay();
    void step(int frames);  ///< the cursor goes to the next frame; of a held picture the picture alone

  protected:
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override { timer_->stop(); }

  private:
    void build();
    void rebuild();
    void follow();
    void fillLog();
    void tick();
    void lineUpByHand(FramePlayer* player);
    void proposeLineUp();
    void add(EvidenceKind kind);
    void removeSource();
    FramePlayer* first() const { return players_.empty() ? nullptr : players_.front(); }
    void moveCursor(Instant t);

    Session& session_;
    QTimer* timer_;
    QVBoxLayout* pictures_;
    QLabel *log_, *empty_;
    QPushButton* play_;
    QComboBox* speed_;
    QPushButton* propose_;
    std::vector<FramePlayer*> players_;
    bool stale_ = true;
};

}  // namespace jacinth::app
