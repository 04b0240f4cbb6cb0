// Fixes entered in a study, each as one undoable change with a name that says what and where; and what a fix
// does, in figures and words.
#pragma once

#include "core/mend/readings.h"
#include "store/study.h"

namespace jacinth {

/// Checks the fix and enters it; the id. Fails on a fix that makes no sense, on a tag of states for a kind
/// that needs numbers, on a twin that is not there.
Result<FixId> enterFix(Study& study, const Fix& fix);
/// Several, of tags that share a cause, as one step: all or none.
Result<std::vector<FixId>> enterFixes(Study& study, const std::vector<Fix>& fixes);
/// Puts what `fix` says in the place of the fix with its id, which keeps its place in the ledger's order and
/// whether it is on.
Status editFix(Study& study, const Fix& fix);
Status switchFix(Study& study, FixId id, bool on);
Status removeFix(Study& study, FixId id);
/// Puts a fix before (`up`) or after its neighbour among the fixes of its tag. Fails at either end.
Status moveFix(Study& study, FixId id, bool up);

Result<Fix> fixOf(const Study& study, FixId id);
/// Fixes of the same tag that are on and act on some of the same time, in order.
std::vector<Fix> overlapping(const Study& study, const Fix& fix);

/// “ramp on Kiln 3 Air-off RH”
std::string fixName(const Study& study, const Fix& fix);
/// How much, in few words: “0 → −9.5 %”, “line, gaps up to 6h”.
std::string fixAmount(const Study& study, const Fix& fix);

/// What a fix changes in the samples that the fixes before it leave. NaN where a value is missing.
struct FixFigures {
    double startBefore = 0, startAfter = 0;  ///< at its first moment
    double endBefore = 0, endAfter = 0;      ///< at its last moment
    double meanBefore = 0, meanAfter = 0;    ///< of usable samples in its stretch
    std::int64_t changed = 0;                ///< samples with another value
    std::int64_t filled = 0;                 ///< samples that were not there
    std::int64_t hidden = 0;                 ///< samples that were usable
    std::int64_t gone = 0;                   ///< samples cut away, or moved elsewhere in time
};
/// As if the fix were on. One that is not entered yet (id 0) acts after all others. Reads the stretch piece
/// by piece: memory does not grow with its length.
FixFigures figuresOf(Study& study, const Fix& fix);

/// The tag's check readings in the stretch of a fix, against the tag as mended by the fixes before it,
/// outlying ones marked.
std::vector<ReadingOff> readingsOf(Study& study, const Fix& fix);

/// The fixes of the tag that act before it, and all of them with it in its place. One that is not entered yet
/// (id 0) acts last. It counts as on.
std::vector<Fix> fixesBefore(const Study& study, const Fix& fix);
std::vector<Fix> fixesWith(const Study& study, const Fix& fix);

}  // namespace jacinth
