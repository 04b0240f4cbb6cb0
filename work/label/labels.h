// Labels: marks on the record. Each change is one undoable step with a name that says what and where.
#pragma once

#include "core/label/label_book.h"
#include "store/study.h"

namespace jacinth {

/// Facts of a label that Jacinth itself gives a meaning. All others are the site's own.
namespace label_fact {
inline constexpr const char* kKind = "kind";            ///< of the label book; absent: not named yet
inline constexpr const char* kCertainty = "certainty";  ///< see kCertainties; absent: sure
inline constexpr const char* kNote = "note";
inline constexpr const char* kBy = "by";               ///< who made it
inline constexpr const char* kFrom = "from";           ///< the track of the span that it was made from
inline constexpr const char* kFromSpan = "from span";  ///< and that span's id
}  // namespace label_fact

/// How sure whoever marked it is, surest first.
inline constexpr std::array<const char*, 3> kCertainties{"sure", "likely", "unsure"};
std::string certaintyOf(const Span& label);
/// The facts that the site gave it.
Facts ownFacts(const Span& label);
/// All tags that it is about; none: the whole asset.
std::vector<TagId> tagsOf(const Span& label);
void setTags(Span& label, const std::vector<TagId>& tags);

std::vector<Span> labelsOf(const Study& study);  ///< of all tracks of labels, by start
/// Fails where nothing of it lies in what is `sampled` (Study::sampled, asked for once for many).
Status checkInRecord(const Study& study, const std::optional<TimeRange>& sampled, TimeRange range);
/// Where labels are put: the first track of labels, made where there is none. Within Study::change.
TrackId labelTrack(Study& study);

/// A mark of a kind of the label book, on the track “Labels”; the id. An empty kind: not named yet. Fails on
/// a kind that is not in the book, a certainty that is none, and a mark without length.
Result<SpanId> addLabelled(Study& study, const Span& span, const std::string& kind, const std::string& note);
/// The same for several, as one step; the ids in their order.
Result<std::vector<SpanId>> addLabels(Study& study, const std::vector<Span>& spans, const std::string& kind);

/// These marks as they are given, as one step. Fails, without effect, where addLabelled would, and on what is
/// not a label.
Status changeLabels(Study& study, const std::vector<Span>& labels, const std::string& name);
Status nameLabels(Study& study, const std::vector<SpanId>& labels, const std::string& kind);
Status removeLabels(Study& study, const std::vector<SpanId>& labels);

/// Cuts a mark in two at a moment within it; the id of the later part.
Result<SpanId> splitLabel(Study& study, SpanId label, Instant at);
/// Makes one mark of several, from the first start to the last end; the earliest stays, about the tags of
/// all. Fails where they are on several assets or of several kinds; one not named yet takes the kind of the
/// others.
Result<SpanId> mergeLabels(Study& study, const std::vector<SpanId>& labels);

/// What became of spans that were to be labels.
struct LabelledSpans {
    std::vector<SpanId> added;
    std::size_t known = 0;    ///< the same label stood there already
    std::size_t moments = 0;  ///< had no length
    std::size_t outside = 0;  ///< lay outside the record
};
/// A label of that kind over each span, on its asset and tag, with its facts and where it came from; as one
/// undoable step. Fails on a kind that is not in the label book; an empty one: not named yet.
Result<LabelledSpans> labelSpans(Study& study, const std::vector<Span>& spans, const std::string& kind,
                                 const std::string& from);

}  // namespace jacinth
