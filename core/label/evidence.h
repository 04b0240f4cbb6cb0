// Evidence: what shows what really happened, beside the traces. Where it is kept, and how its clock differs
// from the plant's.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/id.h"
#include "core/time/zone.h"

namespace jacinth {

/// Frames: a folder of pictures with times in their names. Video: one file that begins at a known moment.
/// Picture: one file, taken at a known moment.
enum class EvidenceKind { Frames, Video, Picture };
/// By name, in files and in commands, in the order of EvidenceKind.
inline constexpr std::array<const char*, 3> kEvidenceKinds{"frames", "video", "picture"};
inline const char* nameOf(EvidenceKind kind) {
    return kEvidenceKinds[static_cast<std::size_t>(kind)];
}

struct EvidenceSource {
    EvidenceId id;
    std::string name;
    EvidenceKind kind = EvidenceKind::Frames;
    std::string path;   ///< of the folder or the file; relative ones are from where the study lies
    AssetId asset;      ///< that it shows; none for the whole plant
    Duration offset{};  ///< what has to be added to a time of the source to have the plant's
    Instant begins{};   ///< of a video, or when the picture was taken; by its own clock
    std::string how;    ///< how the offset was found, in words
};

/// One picture of a source, by the source's own clock.
struct Frame {
    Instant time;
    std::string file;  ///< name within the folder
    bool operator==(const Frame&) const = default;
};

/// The time that a file's name tells: the first run of digits, with signs between them or not, that reads as
/// year, month, day, hour, minute, second and maybe decimals of it (`cam-2026-03-05T14-15-00.500Z.png`,
/// `20260305_141500.jpg`). With a Z behind it UTC, else by the wall clock of `zone`; none where there is
/// none, and where that time did not happen.
std::optional<Instant> timeInName(std::string_view name, const Zone& zone);

/// Those names that tell a time, by time. Several of one moment: in order of their names.
std::vector<Frame> framesByTime(const std::vector<std::string>& names, const Zone& zone);

/// The frame that is seen at a moment of the source's clock: the last one not after it. −1 where there is
/// none yet, or where that one is older than `longest`.
int frameAt(const std::vector<Frame>& frames, Instant t, Duration longest);

/// How long a frame is taken to show what is: twice the median time to the next, and at least 10 min; a
/// single one for 12 h.
Duration stayOf(const std::vector<Frame>& frames);

/// The offset for which a moment of the source is one of the plant.
inline Duration offsetFor(Instant ofSource, Instant ofPlant) {
    return ofPlant - ofSource;
}

}  // namespace jacinth
