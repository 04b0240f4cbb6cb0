#include "work/label/evidence_files.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/text.h"
#include "store/judgement.h"
#include "store/write_file.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

bool isPicture(const fs::path& path) {
    const std::string ending = lowerCase(path.extension().string());
    return ending == ".png" || ending == ".jpg" || ending == ".jpeg" || ending == ".bmp" || ending == ".webp";
}

fs::path folderOf(const Study& study) {
    return fs::absolute(fs::path(study.path())).parent_path();
}

nlohmann::json said(const EvidenceSource& s) {
    return {{"name", s.name},
            {"path", s.path},
            {"kind", nameOf(s.kind)},
            {"offset", toSeconds(s.offset)},
            {"how", s.how}};
}

}  // namespace

fs::path evidencePath(const Study& study, const EvidenceSource& source) {
    const fs::path path(source.path);
    return path.is_absolute() ? path : folderOf(study) / path;
}

std::string evidencePathFor(const Study& study, const fs::path& path) {
    const fs::path relative = fs::absolute(path).lexically_relative(folderOf(study));
    const bool below = !relative.empty() && *relative.begin() != "..";
    return below ? relative.string() : fs::absolute(path).string();
}

fs::path evidenceFolder(const Study& study, const EvidenceSource& source) {
    const fs::path path = evidencePath(study, source);
    return source.kind == EvidenceKind::Frames ? path : path.parent_path();
}

Status checkEvidence(const Study& study, const EvidenceSource& source) {
    if (source.kind == EvidenceKind::Frames) {
        const auto frames = framesOf(study, source);
        return frames ? Status(Done{}) : Status(frames.error());
    }
    const fs::path path = evidencePath(study, source);
    // Asked by name: opening a pipe would wait for its other end.
    if (const Status plain = checkPlainFile(path.string()); !plain) return plain;
    if (source.kind == EvidenceKind::Picture && !isPicture(path))
        return Error{path.string() + " is not a picture: PNG, JPEG, BMP or WebP"};
    return Done{};
}

Result<std::vector<Frame>> framesOf(const Study& study, const EvidenceSource& source) {
    const fs::path folder = evidencePath(study, source);
    if (source.kind == EvidenceKind::Video)
        return Error{folder.string() + " is a video, without frames on file"};
    if (source.kind == EvidenceKind::Picture) {
        if (const Status good = checkEvidence(study, source); !good) return good.error();
        return std::vector{Frame{source.begins, folder.filename().string()}};
    }
    std::error_code trouble, none;
    std::vector<std::string> names;
    for (fs::directory_iterator at(folder, trouble), end; !trouble && at != end; at.increment(trouble))
        if (isPicture(at->path()) && fs::is_regular_file(at->path(), none))
            names.push_back(at->path().filename().string());
    if (trouble) return Error{fmt::format("{} cannot be read: {}", folder.string(), trouble.message())};
    std::vector<Frame> frames = framesByTime(names, study.zone());
    if (frames.empty())
        return Error{
            fmt::format("{} has {} pictures, and none tells its time in its name, like "
                        "20260305-141500",
                        folder.string(), names.size())};
    return frames;
}

std::string freeEvidenceName(const Study& study, const std::string& wanted) {
    std::set<std::string> taken;
    for (const EvidenceSource& s : study.judgement().evidence()) taken.insert(s.name);
    std::string name = wanted;
    for (int n = 2; taken.contains(name); ++n) name = fmt::format("{} {}", wanted, n);
    return name;
}

Result<EvidenceId> keepEvidence(Study& study, const EvidenceSource& source) {
    if (const Status good = checkName(source.name, "a source of evidence"); !good) return good.error();
    if (source.path.empty()) return Error{"say where the pictures are"};
    std::optional<EvidenceSource> before;
    for (const EvidenceSource& s : study.judgement().evidence()) {
        if (s.id == source.id) before = s;
        if (s.name == source.name && s.id != source.id)
            return Error{fmt::format("there is evidence called `{}` already", source.name)};
    }
    if (source.id && !before) return Error{"this evidence is not there any more"};
    EvidenceId id;
    nlohmann::json detail{{"after", said(source)}};
    if (before) detail["before"] = said(*before);
    study.change((before ? "change evidence " : "evidence ") + source.name, "", detail,
                 [&] { id = study.judgement().putEvidence(source); });
    return id;
}

Status removeEvidence(Study& study, EvidenceId id) {
    for (const EvidenceSource& s : study.judgement().evidence())
        if (s.id == id) {
            study.change("remove evidence " + s.name, "", said(s),
                         [&] { study.judgement().removeEvidence(id); });
            return Done{};
        }
    return Error{"this evidence is not there any more"};
}

Status setEvidenceOffset(Study& study, EvidenceId id, Duration offset, const std::string& how) {
    for (EvidenceSource s : study.judgement().evidence())
        if (s.id == id) {
            s.offset = offset;
            s.how = how;
            const auto kept = keepEvidence(study, s);
            return kept ? Status(Done{}) : Status(kept.error());
        }
    return Error{"this evidence is not there any more"};
}

}  // namespace jacinth
