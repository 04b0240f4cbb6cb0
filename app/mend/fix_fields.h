// The fields of the fix in hand: one widget for each kind of fix, all used alike.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "core/mend/fix.h"
#include "core/series/spikes.h"

namespace jacinth::app {

/// What the fields need to know of the tag that is mended.
struct FixContext {
    Tag tag;
    std::vector<Tag> twins;                  ///< tags to borrow from, likeliest first
    std::function<double(Instant)> valueAt;  ///< as mended by the fixes before this one; NaN for none
};

class FixFields : public QWidget {
    Q_OBJECT
  public:
    /// Fills the fields from the fix, whose kind is theirs. Nothing is marked wrong any more.
    virtual void show(const Fix& fix, const FixContext& context) = 0;
    /// Takes what was typed into the fix. False where something cannot be read: its field is marked.
    virtual bool take(Fix& fix, const FixContext& context) = 0;
    virtual QString says() const = 0;  ///< what this kind does, in a sentence

  signals:
    void edited();  ///< a field was left, or a choice made
    /// Spikes are to be looked for: in the stretch of the fix, or everywhere.
    void spikesAsked(const jacinth::SpikeSearch& search, bool everywhere);
    void labelPartsAsked();  ///< of a hiding fix
    /// The amount is to come from the levels over a margin on both sides of the ends; or from two stretches
    /// that are marked by hand.
    void levelsAsked(jacinth::Duration margin);
    void twoStretchesAsked(bool on);
};

FixFields* makeFixFields(FixKind kind, Session& session);

/// The number that a text begins with; none where it does not begin with one.
std::optional<double> numberIn(const QString& text);
/// As many digits as it takes to read the same number again.
QString amountText(double v);

}  // namespace jacinth::app
