#include "app/plot/traces.h"

namespace jacinth::app {

QCPRange TracePlottable::values() const {
    QCPRange out(1, 0);
    for (const Summary& c : columns_) {
        if (!c.usable) continue;
        if (out.lower > out.upper) out.lower = out.upper = c.least;
        out.lower = std::min(out.lower, c.least);
        out.upper = std::max(out.upper, c.greatest);
    }
    return out;
}

void TracePlottable::draw(QCPPainter* painter) {
    const bool stepped = bridging_.kind != TagKind::Continuous;
    // Many columns: a line through first, least, greatest and last of each, without smoothing, costs a third.
    const bool dense = columns_.size() > 1600;
    painter->setAntialiasing(!dense);
    painter->setPen(mPen);
    painter->setBrush(Qt::NoBrush);
    QPolygonF line;
    line.reserve(static_cast<qsizetype>(columns_.size()) * 4);
    const auto flush = [&] {
        if (line.size() == 1) painter->drawEllipse(line[0], 1.2, 1.2);
        if (line.size() > 1) painter->drawPolyline(line);
        line.clear();
    };
    Instant before = kNoInstant;
    for (const Summary& c : columns_) {
        if (!c.usable) continue;
        if (before != kNoInstant && bridging_.longestGap != kWithoutEnd && c.firstTime - before > bridging_.longestGap) flush();
        const double left = x(c.firstTime), right = x(c.lastTime);
        if (stepped && !line.isEmpty()) line << QPointF(left, line.back().y());
        line << QPointF(left, y(c.first));
        if (c.usable > 1) {
            const double middle = (left + right) / 2;
            const double low = y(c.least), high = y(c.greatest);
            // Go first to the extreme that is nearer, so that the line does not cross itself more than the data does.
            if (std::abs(c.first - c.least) < std::abs(c.first - c.greatest)) line << QPointF(middle, low) << QPointF(middle, high);
            else line << QPointF(middle, high) << QPointF(middle, low);
            line << QPointF(right, y(c.last));
        }
        before = c.lastTime;
    }
    flush();
    drawBadMarks(painter);
}

void TracePlottable::drawBadMarks(QCPPainter* painter) const {
    const double floor = mValueAxis->axisRect()->bottom() - 4;
    for (const Summary& c : columns_) {
        if (c.usable == c.count) continue;
        const double at = x(c.firstTime);
        painter->drawLine(QPointF(at - 1.5, floor - 1.5), QPointF(at + 1.5, floor + 1.5));
        painter->drawLine(QPointF(at - 1.5, floor + 1.5), QPointF(at + 1.5, floor - 1.5));
    }
}

void BandPlottable::draw(QCPPainter* painter) {
    painter->setAntialiasing(false);
    const QRect r = mKeyAxis->axisRect()->rect();
    QFontMetrics metrics(painter->font());
    for (const Band& b : bands_) {
        const double left = std::max<double>(r.left(), mKeyAxis->coordToPixel(toSeconds(b.range.from - origin_)));
        const double right = std::min<double>(r.right() + 1, mKeyAxis->coordToPixel(toSeconds(b.range.to - origin_)));
        if (right <= left) continue;
        const auto code = static_cast<std::size_t>(b.code);
        painter->fillRect(QRectF(left, r.top(), std::max(1.0, right - left), r.height()), colours_[code % colours_.size()]);
        painter->setPen(QPen(mKeyAxis->axisRect()->backgroundBrush().color(), 1));
        painter->drawLine(QPointF(left, r.top()), QPointF(left, r.bottom()));
        if (code < names_.size() && metrics.horizontalAdvance(names_[code]) + 10 < right - left) {
            painter->setPen(ink_);
            painter->drawText(QRectF(left + 5, r.top(), right - left - 6, r.height()), Qt::AlignVCenter | Qt::AlignLeft, names_[code]);
        }
    }
}

}  // namespace jacinth::app
