// Pictures with times in their names, or a single one: each is seen until the next.
#pragma once

#include "app/label/picture_source.h"

namespace jacinth::app {

class FrameFolder : public PictureSource {
    Q_OBJECT
  public:
    FrameFolder(const Study& study, const EvidenceSource& source);
    std::optional<Instant> start() const override;
    QString extent() const override;
    void showAt(std::optional<Instant> t) override;
    std::optional<Instant> time() const override;
    std::optional<Instant> further(int by, std::optional<Instant> from) const override;
    const std::vector<Frame>& frames() const { return frames_; }
    const std::string& folder() const { return folder_; }

  private:
    std::string folder_;
    std::vector<Frame> frames_;
    Duration stay_;  ///< an older frame does not show what is now
    int frame_ = -1;
};

/// How bright each of these pictures is, 0 to 255; NaN for what cannot be read. Takes milliseconds a picture:
/// not for the interface thread.
std::vector<double> brightnessOf(const std::string& folder, const std::vector<Frame>& frames);

}  // namespace jacinth::app
