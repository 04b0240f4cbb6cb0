#include "app/language/expression_preview.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPointer>
#include <QToolTip>
#include <cmath>

#include "app/base/ui.h"
#include "app/plot/chart.h"
#include "work/base/study_inputs.h"

namespace jacinth::app {
namespace {

constexpr int kBar = 18;

/// Least and greatest of a signal in each pixel column; NaN where there is no value.
std::vector<std::pair<double, double>> columnsOf(const Signal& s, TimeRange view, int pixels) {
    std::vector<std::pair<double, double>> out(static_cast<std::size_t>(std::max(1, pixels)),
                                               {std::nan(""), std::nan("")});
    const double step = toNanoseconds(view.length()) / static_cast<double>(out.size());
    const auto take = [&](std::pair<double, double>& c, double v) {
        if (!std::isfinite(v)) return;
        c.first = std::isnan(c.first) ? v : std::min(c.first, v);
        c.second = std::isnan(c.second) ? v : std::max(c.second, v);
    };
    for (std::size_t i = 0; i < out.size(); ++i)
        take(out[i], signalAt(s, view.from + fromNanoseconds(step * (static_cast<double>(i) + 0.5))));
    for (std::size_t i = 0; i < s.times.size(); ++i) {
        if (!view.contains(s.times[i])) continue;
        const auto x = static_cast<std::size_t>(toNanoseconds(s.times[i] - view.from) / step);
        take(out[std::min(x, out.size() - 1)], s.values[i]);
    }
    return out;
}

}  // namespace

ExpressionPreview::ExpressionPreview(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("expressionPreview");
    setAccessibleName("Where the expression is true");
    setFixedHeight(kBar + 18);
    setMouseTracking(true);
    setToolTip("Over the time in view; click puts the cursor there");
    connect(&session.view(), &ViewState::viewChanged, this, &ExpressionPreview::evaluateSoon);
    connect(&session.view(), &ViewState::selectionChanged, this, &ExpressionPreview::evaluateSoon);
    connect(&session.view(), &ViewState::whichChanged, this, &ExpressionPreview::evaluateSoon);
    connect(&session.view(), &ViewState::cursorChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::studyChanged, this, &ExpressionPreview::evaluateSoon);
    connect(&session, &Session::themeChanged, this, qOverload<>(&QWidget::update));
}

void ExpressionPreview::setText(const QString& text) {
    text_ = text;
    evaluateSoon();
}

void ExpressionPreview::setCompact() {
    compact_ = true;
    setFixedHeight(kBar);
}

void ExpressionPreview::evaluateSoon() {
    const AssetId asset = session_.view().asset();
    const TimeRange view = session_.view().view();
    const Which which = session_.view().which();
    if (text_.trimmed().isEmpty() || !isVisible()) {
        value_.reset();
        update();
        return;
    }
    // A dialog with a preview may be gone before the answer comes.
    const QPointer<ExpressionPreview> self(this);
    session_.runJob(
        this, QString("preview %1").arg(reinterpret_cast<quintptr>(this)), "Calculating the expression",
        [self, asset, view, which, text = text_.toStdString()](JobContext& job) -> std::function<void()> {
            const auto expression = compileExpression(text, namesIn(job.study, asset));
            Result<Value> value = Error{""};
            if (expression) {
                StudyInputs inputs(job.study, asset, view, expression->lookBack, which);
                value = evaluate(*expression, inputs, view, job.progress);
            }
            return [self, expression, value = std::move(value), view] {
                if (!self) return;
                if (value)
                    self->take(*expression, *value, view);
                else
                    self->value_.reset();
                self->update();
            };
        });
}

void ExpressionPreview::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    evaluateSoon();
}

void ExpressionPreview::take(const Expression& expression, const Value& value, TimeRange view) {
    value_ = value;
    type_ = expression.type;
    unit_ = QString::fromStdString(expression.unit);
    view_ = view;
    true_.clear();
    unknown_.clear();
    if (const auto* condition = std::get_if<Condition>(&value)) {
        true_ = stretches(*condition, view);
        unknown_ = stretches(*condition, view, Truth::Unknown);
    }
}

Instant ExpressionPreview::moment() const {
    if (pointer_) return *pointer_;
    const auto cursor = session_.view().cursor(0);
    return cursor && view_.contains(*cursor) ? *cursor : view_.to - kNanosecond;
}

QString ExpressionPreview::valueWords(Instant t) const {
    const auto inside = [&](const std::vector<TimeRange>& ranges) {
        return std::any_of(ranges.begin(), ranges.end(), [&](const TimeRange& r) { return r.contains(t); });
    };
    if (std::holds_alternative<Condition>(*value_))
        return inside(true_) ? "true" : inside(unknown_) ? "unknown" : "false";
    const Signal& s = std::get<Signal>(*value_);
    const double v = signalAt(s, t);
    if (!std::isfinite(v)) return "no value";
    if (type_ == ValueType::State && static_cast<std::size_t>(v) < s.states.size())
        return QString::fromStdString(s.states[static_cast<std::size_t>(v)]);
    if (type_ == ValueType::DurationValue)
        return QString::fromStdString(sayDuration(Duration(std::llround(v * 1e9))));
    return valueText(v, unit_);
}

QString ExpressionPreview::words() const {
    if (!value_) return {};
    const Asset* asset = session_.study().catalog().asset(session_.view().asset());
    const Instant t = moment();
    QString out = QString("%1: %2 at %3")
                      .arg(QString::fromStdString(asset ? asset->name : ""), valueWords(t),
                           QString::fromStdString(session_.zone().shortText(t)));
    if (std::holds_alternative<Condition>(*value_))
        out +=
            QString(" · true %1 % of the time in view, %2 time%3")
                .arg(100 * toHours(totalLength(true_)) / std::max(1e-9, toHours(view_.length())), 0, 'f', 1)
                .arg(true_.size())
                .arg(true_.size() == 1 ? "" : "s");
    return out;
}

QRectF ExpressionPreview::ribbon() const {
    return QRectF(0, 0, width(), kBar);
}

void ExpressionPreview::paintNumber(QPainter& p) const {
    const Theme& theme = session_.theme();
    const auto columns = columnsOf(std::get<Signal>(*value_), view_, static_cast<int>(ribbon().width()));
    double low = std::numeric_limits<double>::infinity(), high = -low;
    for (const auto& [a, b] : columns)
        if (std::isfinite(a)) low = std::min(low, a), high = std::max(high, b);
    if (low > high) return;
    if (high == low) high = low + 1, low -= 1;
    const auto y = [&](double v) { return kBar - 2 - (v - low) / (high - low) * (kBar - 4); };
    p.setPen(QPen(theme.traces[0], 1));
    double last = std::nan("");
    for (std::size_t x = 0; x < columns.size(); ++x) {
        const auto& [a, b] = columns[x];
        if (std::isfinite(a)) {
            const double from = std::isfinite(last) ? std::min(a, last) : a;
            const double to = std::isfinite(last) ? std::max(b, last) : b;
            p.drawLine(QPointF(static_cast<double>(x), y(from)),
                       QPointF(static_cast<double>(x), y(to) - 0.5));
        }
        last = b;
    }
}

void ExpressionPreview::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& theme = session_.theme();
    p.setFont(smallFont());
    p.setPen(theme.second);
    if (!value_) {
        p.drawText(rect(), Qt::AlignLeft | Qt::AlignVCenter,
                   text_.trimmed().isEmpty() && !compact_
                       ? "Where it is true over the time in view shows here."
                       : "");
        return;
    }
    p.fillRect(ribbon(), theme.plot);
    const auto x = [&](Instant t) {
        return toNanoseconds(t - view_.from) / toNanoseconds(view_.length()) * width();
    };
    if (std::holds_alternative<Signal>(*value_)) paintNumber(p);
    for (const TimeRange& r : unknown_)
        p.fillRect(QRectF(x(r.from), 0, x(r.to) - x(r.from), kBar),
                   QBrush(faded(theme.second, 0.5), Qt::BDiagPattern));
    for (const TimeRange& r : true_)
        p.fillRect(QRectF(x(r.from), 3, std::max(1.5, x(r.to) - x(r.from)), kBar - 6), theme.accent);
    p.setPen(QPen(theme.hairline, 1));
    p.drawRect(ribbon().adjusted(0, 0, -1, -1));
    p.setPen(QPen(theme.ink, 1));
    p.drawLine(QPointF(x(moment()), 0), QPointF(x(moment()), kBar));
    if (compact_) return;
    p.setPen(theme.second);
    p.drawText(QRectF(0, kBar, width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(words(), Qt::ElideRight, width()));
}

void ExpressionPreview::mouseMoveEvent(QMouseEvent* e) {
    const double share = std::clamp(e->position().x() / std::max(1, width()), 0.0, 1.0);
    pointer_ = view_.from + fromNanoseconds(share * toNanoseconds(view_.length() - kNanosecond));
    if (compact_) QToolTip::showText(e->globalPosition().toPoint(), plainTip(words()), this);
    update();
}

void ExpressionPreview::mousePressEvent(QMouseEvent* e) {
    mouseMoveEvent(e);
    if (value_) session_.view().setCursor(0, pointer_);
}

void ExpressionPreview::leaveEvent(QEvent*) {
    pointer_.reset();
    update();
}

}  // namespace jacinth::app
