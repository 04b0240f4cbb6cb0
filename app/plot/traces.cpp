#include "app/plot/traces.h"

namespace jacinth::app {
namespace {

/// Draws lines as pixel columns, each from the least to the greatest height the line has in it, with soft
/// ends. Qt's own antialiased polylines take twenty times as long for lines as ragged as sensor traces.
class ColumnPainter {
  public:
    ColumnPainter(const QRect& area, const QPen& pen)
        : area_(area),
          pen_(pen),
          top_(static_cast<std::size_t>(area.width()), kNothing),
          bottom_(top_.size(), -kNothing) {}

    void add(const QPolygonF& line) {
        if (line.size() == 1) extend(line[0].x(), line[0].y(), line[0].y());
        for (qsizetype i = 0; i + 1 < line.size(); ++i) segment(line[i], line[i + 1]);
    }

    void paint(QPainter* p) {
        p->setRenderHint(QPainter::Antialiasing, false);
        const double half = pen_.widthF() / 2;
        for (std::size_t i = 0; i < top_.size(); ++i) {
            if (top_[i] > bottom_[i]) continue;
            const double from = std::max<double>(top_[i] - half, area_.top()),
                         to = std::min<double>(bottom_[i] + half, area_.bottom() + 1);
            if (to <= from) continue;
            const int x = area_.left() + static_cast<int>(i);
            const int first = static_cast<int>(std::floor(from)), last = static_cast<int>(std::ceil(to)) - 1;
            soft(p, x, first, std::min<double>(to, first + 1) - from);
            if (last > first + 1) p->fillRect(x, first + 1, 1, last - first - 1, pen_.color());
            if (last > first) soft(p, x, last, to - last);
        }
        p->setRenderHint(QPainter::Antialiasing, true);
    }

  private:
    static constexpr float kNothing = 1e30F;

    void soft(QPainter* p, int x, int y, double cover) {
        QColor colour = pen_.color();
        colour.setAlphaF(static_cast<float>(std::clamp(cover, 0.0, 1.0) * pen_.color().alphaF()));
        p->fillRect(x, y, 1, 1, colour);
    }
    void extend(double x, double a, double b) {
        const double column = std::floor(x) - area_.left();
        if (column < 0 || column >= static_cast<double>(top_.size())) return;
        const auto i = static_cast<std::size_t>(column);
        top_[i] = std::min(top_[i], static_cast<float>(std::min(a, b)));
        bottom_[i] = std::max(bottom_[i], static_cast<float>(std::max(a, b)));
    }
    /// The part of the segment in each pixel column it passes.
    void segment(QPointF a, QPointF b) {
        if (a.x() > b.x()) std::swap(a, b);
        if (std::floor(a.x()) == std::floor(b.x())) return extend(a.x(), a.y(), b.y());
        const double slope = (b.y() - a.y()) / (b.x() - a.x());
        const double from = std::max<double>(a.x(), area_.left()),
                     to = std::min<double>(b.x(), area_.right() + 1);
        for (double x = from; x < to;) {
            const double next = std::min(std::floor(x) + 1, to);
            extend(x, a.y() + (x - a.x()) * slope, a.y() + (next - a.x()) * slope);
            x = next;
        }
    }

    QRect area_;
    QPen pen_;
    std::vector<float> top_, bottom_;
};

}  // namespace

std::optional<QCPRange> TracePlottable::values(TimeRange range) const {
    std::optional<QCPRange> out;
    for (const Summary& c : columns_) {
        if (!c.usable || c.lastTime < range.from || c.firstTime > range.to) continue;
        const QCPRange part(c.least, c.greatest);
        if (out)
            out->expand(part);
        else
            out = part;
    }
    return out;
}

QPolygonF TracePlottable::pointsOf(const Summary& c) const {
    QPolygonF out;
    const double left = x(c.firstTime), right = x(c.lastTime);
    out << QPointF(left, y(c.first));
    if (c.usable == 1) return out;
    const double middle = (left + right) / 2;
    const double low = y(c.least), high = y(c.greatest);
    // Go first to the extreme that is nearer, so that the line does not cross itself more than the data does.
    if (std::abs(c.first - c.least) < std::abs(c.first - c.greatest))
        out << QPointF(middle, low) << QPointF(middle, high);
    else
        out << QPointF(middle, high) << QPointF(middle, low);
    return out << QPointF(right, y(c.last));
}

std::pair<std::size_t, std::size_t> TracePlottable::inView() const {
    // What is held may reach beyond the view on both sides; one column more on either side draws to the
    // edges.
    const QCPRange r = mKeyAxis->range();
    const auto at = [&](double key) { return origin_ + fromNanoseconds(key * 1e9); };
    const auto a = std::partition_point(columns_.begin(), columns_.end(),
                                        [t = at(r.lower)](const Summary& c) { return c.lastTime < t; });
    const auto b = std::partition_point(a, columns_.end(),
                                        [t = at(r.upper)](const Summary& c) { return c.firstTime <= t; });
    const auto first = static_cast<std::size_t>(a - columns_.begin()),
               last = static_cast<std::size_t>(b - columns_.begin());
    return {first > 0 ? first - 1 : 0, std::min(columns_.size(), last + 1)};
}

std::vector<QPolygonF> TracePlottable::lines() const {
    const bool stepped = bridging_.kind != TagKind::Continuous;
    std::vector<QPolygonF> out(1);
    Instant before = kNoInstant;
    const auto [first, last] = inView();
    for (std::size_t i = first; i < last; ++i) {
        const Summary& c = columns_[i];
        if (!c.usable && ends_ && !out.back().isEmpty()) out.emplace_back();
        if (!c.usable) continue;
        if (before != kNoInstant && bridging_.longestGap != kWithoutEnd &&
            c.firstTime - before > bridging_.longestGap)
            out.emplace_back();
        const QPolygonF points = pointsOf(c);
        if (stepped && !out.back().isEmpty())
            out.back() << QPointF(points.front().x(), out.back().back().y());
        out.back() << points;
        before = c.lastTime;
    }
    return out;
}

void TracePlottable::draw(QCPPainter* painter) {
    if (mPen.style() == Qt::SolidLine) {
        ColumnPainter columns(mKeyAxis->axisRect()->rect(), mPen);
        for (const QPolygonF& line : lines()) columns.add(line);
        columns.paint(painter);
    } else {
        painter->setPen(mPen);
        painter->setBrush(Qt::NoBrush);
        for (const QPolygonF& line : lines()) painter->drawPolyline(line);
    }
    painter->setPen(QPen(mPen.color(), 1));
    drawBadMarks(painter);
}

void TracePlottable::drawBadMarks(QCPPainter* painter) const {
    if (ends_) return;
    const double floor = mValueAxis->axisRect()->bottom() - 4;
    const auto [first, last] = inView();
    for (std::size_t i = first; i < last; ++i) {
        const Summary& c = columns_[i];
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
        const double left =
            std::max<double>(r.left(), mKeyAxis->coordToPixel(toSeconds(b.range.from - origin_)));
        const double right =
            std::min<double>(r.right() + 1, mKeyAxis->coordToPixel(toSeconds(b.range.to - origin_)));
        if (right <= left) continue;
        const auto code = static_cast<std::size_t>(b.code);
        painter->fillRect(QRectF(left, r.top(), std::max(1.0, right - left), r.height()),
                          colours_[code % colours_.size()]);
        painter->setPen(QPen(mKeyAxis->axisRect()->backgroundBrush().color(), 1));
        painter->drawLine(QPointF(left, r.top()), QPointF(left, r.bottom()));
        if (code < names_.size() && metrics.horizontalAdvance(names_[code]) + 10 < right - left) {
            painter->setPen(ink_);
            painter->drawText(QRectF(left + 5, r.top(), right - left - 6, r.height()),
                              Qt::AlignVCenter | Qt::AlignLeft, names_[code]);
        }
    }
}

}  // namespace jacinth::app
