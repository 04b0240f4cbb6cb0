// Evaluation of a long record piece by piece, on all threads, with bounded memory.
#pragma once

#include <memory>

#include "core/base/progress.h"
#include "core/expr/evaluate.h"

namespace jacinth {

/// How a record is cut.
struct PieceSpec {
    Duration length{};  ///< 0: not at all
    Duration margin{};  ///< over which a line may reach beyond a piece: the longest gap of the tags
};

/// Pieces for tags of about this spacing: some hundred thousand samples, and several times the look-back, so
/// that little is read twice. Not cut where an expression depends on all that came before. A longest gap
/// without end is that of held values, which the inputs must reach back for themselves.
PieceSpec piecesFor(std::span<const Expression> expressions, Duration spacing, Duration longestGap);
inline PieceSpec piecesFor(const Expression& expression, Duration spacing, Duration longestGap) {
    return piecesFor({&expression, 1}, spacing, longestGap);
}

/// Makes the inputs that cover a range, look-back included; it is called on any thread.
using InputsOver = std::function<std::unique_ptr<Inputs>(TimeRange reach)>;

/// Evaluates over `range` in pieces, at most `ahead` beyond the one that is taken, handed to `take` in order
/// of time on the calling thread. Each value stands for its own range: signals have knots in [from, to) and
/// one beyond each end where lines go on; conditions begin with their truth at `from`. Together the pieces
/// are what evaluate() gives for all.
Status evaluateInPieces(const Expression& expression, TimeRange range, const PieceSpec& spec,
                        const InputsOver& inputsOf, const std::function<void(TimeRange, const Value&)>& take,
                        int ahead = 4, const Progress& progress = {});
/// Several expressions about one asset, and who takes their values: what they share is read and computed once
/// a piece, and each piece is handed over with all of them.
struct InPieces {
    std::span<const Expression> expressions;
    PieceSpec spec;
    InputsOver inputsOf;
    std::function<void(TimeRange, std::vector<Value>)> take;
};
/// The same for several assets, one after the other; the first pieces of the next begin while the last of
/// this one are under way, so that no processor waits at the end of each.
Status evaluateEachInPieces(std::span<const InPieces> works, TimeRange range, int ahead = 4,
                            const Progress& progress = {});

/// Puts the next piece behind what there is.
void appendPiece(Value& whole, TimeRange range, const Value& piece);

}  // namespace jacinth
