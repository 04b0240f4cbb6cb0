// What the pages of Screen share: the current track of runs.
#pragma once

#include <QObject>

#include "app/base/session.h"
#include "store/tracks.h"

namespace jacinth::app {

class ScreenState : public QObject {
    Q_OBJECT
  public:
    explicit ScreenState(Session& session) : session_(session) {}
    /// The current track: the one chosen, or the first track of runs. Nothing where there is none yet.
    std::optional<Track> track() const {
        if (auto chosen = session_.study().tracks().named(name_); chosen && chosen->kind == track_kind::kRuns)
            return chosen;
        return session_.study().tracks().firstOf(track_kind::kRuns);
    }
    TrackId trackId() const {
        const auto t = track();
        return t ? t->id : TrackId();
    }
    void setTrack(const std::string& name) {
        if (name == name_) return;
        name_ = name;
        emit trackChanged();
    }

  signals:
    void trackChanged();

  private:
    Session& session_;
    std::string name_;
};

}  // namespace jacinth::app
