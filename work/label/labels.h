// Labels and the label book, each entry as one undoable change with a name that says what and where.
#pragma once

#include "core/label/label_book.h"
#include "store/study.h"

namespace jacinth {

/// Adds a kind to the label book. Fails on a name or a key that another kind has, and on a colour that is not
/// like #8A4FA3.
Status addLabelKind(Study& study, const LabelKind& kind);

/// A mark of a kind of the label book, on the track “Labels”; the id.
Result<SpanId> addLabelled(Study& study, const Span& span, const std::string& kind, const std::string& note);
Status changeLabel(Study& study, const Span& span, const std::string& name);
Status removeLabel(Study& study, SpanId id);

/// What became of spans that were to be labels.
struct LabelledSpans {
    std::size_t added = 0;
    std::size_t known = 0;  ///< the same label stood there already
};
/// A label of that kind over each span, on its asset and tag, with its facts and the note `from <from>`; as
/// one undoable step. Moments without length get none. Fails on a kind that is not in the label book.
Result<LabelledSpans> labelSpans(Study& study, const std::vector<Span>& spans, const std::string& kind,
                                 const std::string& from);

}  // namespace jacinth
