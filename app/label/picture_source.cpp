#include "app/label/picture_source.h"

#include "app/label/frame_folder.h"
#include "app/label/video_file.h"

namespace jacinth::app {

std::unique_ptr<PictureSource> openPictures(const Study& study, const EvidenceSource& source) {
    if (source.kind == EvidenceKind::Video) return std::make_unique<VideoFile>(study, source);
    return std::make_unique<FrameFolder>(study, source);
}

}  // namespace jacinth::app
