#include "app/label/frame_folder.h"

#include <QImageReader>
#include <cmath>

#include "store/write_file.h"
#include "work/label/evidence_files.h"

namespace jacinth::app {

FrameFolder::FrameFolder(const Study& study, const EvidenceSource& source)
    : folder_(evidenceFolder(study, source).string()) {
    auto frames = framesOf(study, source);
    if (frames)
        frames_ = std::move(*frames);
    else
        trouble_ = QString::fromStdString(frames.error().message);
    stay_ = stayOf(frames_);
}

std::optional<Instant> FrameFolder::start() const {
    return frames_.empty() ? std::nullopt : std::optional(frames_.front().time);
}

QString FrameFolder::extent() const {
    return frames_.size() == 1 ? "one picture" : QString("%1 frames").arg(frames_.size());
}

std::optional<Instant> FrameFolder::time() const {
    return frame_ < 0 ? std::nullopt : std::optional(frames_[static_cast<std::size_t>(frame_)].time);
}

void FrameFolder::showAt(std::optional<Instant> t) {
    const int frame = t ? frameAt(frames_, *t, stay_) : -1;
    if (frame == frame_ && (frame < 0 || !picture_.isNull())) return;
    frame_ = frame;
    picture_ = QPixmap();
    if (frame >= 0) {
        const std::string file = folder_ + "/" + frames_[static_cast<std::size_t>(frame)].file;
        QImageReader reader(QString::fromStdString(file));
        // A pipe of that name would keep the window waiting for its other end.
        if (checkPlainFile(file)) picture_ = QPixmap::fromImageReader(&reader);
    }
    emit shown();
}

std::optional<Instant> FrameFolder::further(int by, std::optional<Instant> from) const {
    int at = frame_ + by;
    if (frame_ < 0) {
        if (!from) return {};
        at = frameAt(frames_, *from, Duration::max()) + (by > 0 ? 1 : 0);
    }
    if (at < 0 || at >= static_cast<int>(frames_.size())) return {};
    return frames_[static_cast<std::size_t>(at)].time;
}

std::vector<double> brightnessOf(const std::string& folder, const std::vector<Frame>& frames) {
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
