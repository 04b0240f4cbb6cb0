#include "app/survey/cursor_figures.h"

#include <QPainter>

#include "app/base/tables.h"
#include "app/base/value_in_sight.h"
#include "core/stats/stats.h"
#include "store/judgement.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::app {
namespace {
constexpr std::uint32_t kReadSamples = 200'000;  // up to so many a stretch's figures are of all its samples

/// Three or four digits: what a narrow column holds.
QString shortValue(double v, bool sign = false) {
    if (!std::isfinite(v)) return "–";
    const double a = std::abs(v);
    const QString text = QString::number(a, 'f', a >= 100 ? 0 : a >= 10 ? 1 : a >= 1 ? 2 : 3);
    return (v < 0 ? "−" : sign ? "+" : "") + text;
}

/// Very long stretches from summaries; others from every sample.
CursorFigures::Stretch readStretch(Study& study, TagId id, TimeRange range, Which which) {
    CursorFigures::Stretch out;
    out.tag = id;
    const Tag* tag = study.catalog().tag(id);
    if (!tag) return out;
    const auto columns = study.columns(*tag, range, 4000, which);
    std::vector<double> hours;
    for (const Summary& c : columns) {
        if (c.lastTime < range.from || c.firstTime > range.to) continue;
        out.all.merge(c);
        if (!c.usable) continue;
        out.values.push_back(c.sum / c.usable);
        hours.push_back(toHours((c.firstTime - range.from) / 2 + (c.lastTime - range.from) / 2));
    }
    out.exact = out.all.usable <= out.values.size();
    if (!out.exact && out.all.count <= kReadSamples) {
        const Series read = study.readForFigures(*tag, range, which);
        const SeriesView in = read.view().within({range.from, range.to + kNanosecond});
        out.values.clear();
        hours.clear();
        for (std::size_t i = 0; i < in.size(); ++i) {
            if (!in.usable(i)) continue;
            out.values.push_back(in.values[i]);
            hours.push_back(toHours(in.times[i] - range.from));
        }
        out.exact = true;
    }
    out.slope = fitLine(hours, out.values).slope;
    return out;
}

}  // namespace

void HistogramView::setValues(const std::vector<double>& values) {
    bins_.assign(24, 0);
    if (values.empty()) {
        bins_.clear();
        return update();
    }
    low_ = *std::min_element(values.begin(), values.end());
    high_ = *std::max_element(values.begin(), values.end());
    const double size = std::max(high_ - low_, 1e-12);
    for (const double v : values) ++bins_[static_cast<std::size_t>(std::min(23.0, (v - low_) / size * 24))];
    update();
}

void HistogramView::paintEvent(QPaintEvent*) {
    if (bins_.empty()) return;
    QPainter p(this);
    const Theme& theme = session_.theme();
    const int most = std::max(1, *std::max_element(bins_.begin(), bins_.end()));
    const double wide = static_cast<double>(width()) / static_cast<double>(bins_.size());
    for (std::size_t i = 0; i < bins_.size(); ++i) {
        const double tall = static_cast<double>(bins_[i]) / most * (height() - 18);
        p.fillRect(QRectF(static_cast<double>(i) * wide, height() - 16 - tall, wide - 1, tall),
                   faded(theme.goldEdge, 0.55));
    }
    p.fillRect(0, height() - 16, width(), 1, theme.hairline);
    p.setPen(theme.second);
    QFont small = uiFont();
    small.setPixelSize(10);
    p.setFont(small);
    p.drawText(rect(), Qt::AlignLeft | Qt::AlignBottom, valueText(low_));
    p.drawText(rect(), Qt::AlignRight | Qt::AlignBottom, valueText(high_));
}

CursorFigures::CursorFigures(Session& session) : session_(session), later_(new QTimer(this)) {
    model_ = new RowsModel({"tag", "1st", "2nd", "difference", "per hour"}, this);
    table_ = makeTable(model_, "cursorTable", {0, 48, 48, 62, 54});
    table_->setSelectionMode(QAbstractItemView::NoSelection);
    table_->setFocusPolicy(Qt::NoFocus);
    hint_ = makeLabel("Press C over the traces for the first cursor, Shift+C for the second.", "second");
    hint_->setWordWrap(true);
    between_ = makeLabel("", "second");
    stretchTitle_ = makeLabel("", "section");
    figures_ = makeLabel("");
    figures_->setObjectName("stretchFigures");
    figures_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    histogram_ = new HistogramView(session);
    label_ = makeButton("Label it", "labelStretch");
    mend_ = makeButton("Mend it", "mendStretch");
    rule_ = makeButton("Rule from slope", "ruleStretch");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(makeLabel("At the cursors", "section"));
    column->addWidget(hint_);
    column->addWidget(table_);
    column->addWidget(between_);
    column->addWidget(makeRule());
    column->addWidget(stretchTitle_);
    column->addWidget(figures_);
    column->addWidget(histogram_);
    column->addWidget(makeRule());
    column->addWidget(makeLabel("This stretch", "section"));
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(label_);
    buttons->addWidget(mend_);
    column->addLayout(buttons);
    column->addWidget(rule_);
    connect(rule_, &QPushButton::clicked, this, [this] {
        const Tag* tag = session_.tag(last_.tag);
        if (!tag || !std::isfinite(last_.slope)) return;
        // The window is the stretch, in whole hours; the bound lies half way to no slope at all.
        const auto hours = std::max<std::int64_t>(1, (stretch().length() + kHour / 2) / kHour);
        emit asked(
            ProveRule{QString("slope(@%1 over %2h) %3 %4")
                          .arg(QString::fromStdString(tag->role), QString::number(hours),
                               last_.slope < 0 ? "<" : ">", QString::number(last_.slope / 2, 'g', 3))});
    });
    connect(label_, &QPushButton::clicked, this, [this] { emit asked(LabelStretch{stretch()}); });
    connect(mend_, &QPushButton::clicked, this, [this] { emit asked(MendStretch{stretch()}); });
    later_->setSingleShot(true);
    later_->setInterval(80);
    connect(later_, &QTimer::timeout, this, &CursorFigures::update_);
    for (const auto signal : {&ViewState::cursorChanged, &ViewState::selectionChanged,
                              &ViewState::shownChanged, &ViewState::viewChanged, &ViewState::whichChanged})
        connect(&session.view(), signal, later_, qOverload<>(&QTimer::start));
    connect(&session, &Session::studyChanged, later_, qOverload<>(&QTimer::start));
    update_();
}

TimeRange CursorFigures::stretch() const {
    const auto a = session_.view().cursor(0), b = session_.view().cursor(1);
    if (a && b) return {std::min(*a, *b), std::max(*a, *b)};
    return session_.view().view();
}

void CursorFigures::update_() {
    const auto a = session_.view().cursor(0), b = session_.view().cursor(1);
    hint_->setVisible(!a);
    std::vector<RowsModel::Row> rows;
    for (const TagId id : session_.view().shown()) {
        const Tag* tag = session_.tag(id);
        if (!tag || tag->kind == TagKind::State || !a) continue;
        const double va = valueInSight(session_, *tag, *a, session_.view().which());
        const double vb = b ? valueInSight(session_, *tag, *b, session_.view().which()) : std::nan("");
        RowsModel::Row row{id,
                           {QString::fromStdString(tag->name), shortValue(va), shortValue(vb),
                            b ? shortValue(vb - va, true) : "–",
                            b && *a != *b ? shortValue((vb - va) / toHours(*b - *a), true) : "–"}};
        row.swatch = session_.tagColour(id);
        const QString unit = QString::fromStdString(tag->unit);
        row.number(1, va, unit);
        row.number(2, vb, unit);
        if (b) row.number(3, vb - va, unit);
        if (b && *a != *b) row.number(4, (vb - va) / toHours(*b - *a), unit + "/h");
        rows.push_back(std::move(row));
    }
    table_->setVisible(!rows.empty());
    table_->setFixedHeight(24 + 21 * static_cast<int>(rows.size()));
    model_->setRows(std::move(rows));
    between_->setVisible(a && b);
    if (a && b)
        between_->setText(QString::fromStdString(sayDuration(std::chrono::abs(*b - *a))) +
                          " between the cursors");
    updateStretch(stretch());
}

void CursorFigures::updateStretch(TimeRange range) {
    const Tag* tag = session_.tag(session_.view().tag());
    const bool numbers = tag && tag->kind != TagKind::State;
    const bool cursors = session_.view().cursor(0) && session_.view().cursor(1);
    mend_->setEnabled(numbers);
    rule_->setEnabled(numbers && cursors);
    rule_->setToolTip(cursors ? "A rule on this slope, to be proved"
                              : "Drop two cursors first: C and Shift+C");
    histogram_->setVisible(numbers);
    figures_->setVisible(numbers);
    stretchTitle_->setText(numbers ? QString::fromStdString(tag->name) +
                                         (cursors ? " between the cursors" : " in view")
                                   : "Choose a tag for its figures");
    if (!numbers) return;
    session_.reader().ask(this, "stretch",
                          [this, id = tag->id, range, which = session_.view().which()](Study& study) {
                              auto read = std::make_shared<Stretch>(readStretch(study, id, range, which));
                              return [this, read] { showStretch(*read); };
                          });
}

void CursorFigures::showStretch(const Stretch& s) {
    const Tag* tag = session_.tag(s.tag);
    if (!tag) return;
    last_ = s;
    const QString unit = QString::fromStdString(tag->unit);
    const bool allUsable = s.all.count == s.all.usable || !derivedText(session_.study(), s.tag).empty();
    showFigures(
        figures_,
        {{"mean", valueText(s.all.usable ? s.all.sum / s.all.usable : std::nan(""), unit)},
         {"least – most", valueText(s.all.least) + " – " + valueText(s.all.greatest, unit)},
         {s.exact ? "s" : "s of column means", valueText(standardDeviation(s.values), unit)},
         {"slope", valueText(s.slope, unit + "/h", true)},
         {"samples", allUsable ? QString::number(s.all.usable)
                               : QString("%1, %2 bad").arg(s.all.count).arg(s.all.count - s.all.usable)}});
    histogram_->setValues(s.values);
}

}  // namespace jacinth::app
