// Two thin bands under a trace: how far it may be believed, and how far the work on it got.
#pragma once

#include <QPainter>
#include <functional>

#include "app/base/session.h"
#include "core/mend/trust.h"

namespace jacinth::app {

inline constexpr int kTrustBandsHeight = 10;

/// Draws the bands of a tag with their lower edge at `bottom`, where anything is judged; whether it did.
/// Grades differ in their fill, not in colour alone: the best is solid, what follows is lighter and striped,
/// the worst crossed; sign-off grows from an outline to solid ink.
bool drawTrustBands(QPainter& painter, Session& session, TagId tag, const QRect& pane, int bottom,
                    const std::function<double(Instant)>& xOf);

/// “fair (ramp) · signed (R. Osen)”: what is judged of a tag at a moment; empty for nothing.
QString trustWords(Session& session, TagId tag, Instant t);

}  // namespace jacinth::app
