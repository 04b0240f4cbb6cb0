#include "app/mend/knot_fields.h"

#include <QHeaderView>
#include <algorithm>

#include "app/base/ui.h"
#include "core/time/time_phrase.h"

namespace jacinth::app {
namespace {

/// Of a knot, as far as the cell has room; what is not typed over keeps all its digits.
QString byText(double by) {
    return QString::number(by, 'g', 6);
}

/// `30: +1, 70: −1`
QString pointsText(const std::vector<CurveFix::Point>& points) {
    QStringList out;
    for (const auto& p : points) out << amountText(p.at) + ": " + amountText(p.by);
    return out.join(", ");
}

std::optional<std::vector<CurveFix::Point>> pointsIn(const QString& text) {
    std::vector<CurveFix::Point> out;
    for (const QString& part : text.split(text.contains(';') ? ';' : ',', Qt::SkipEmptyParts)) {
        const QStringList pair = part.split(':');
        if (pair.size() != 2) return {};
        const auto at = numberIn(pair[0]), by = numberIn(pair[1]);
        if (!at || !by) return {};
        out.push_back({*at, *by});
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    const auto twice =
        std::adjacent_find(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.at == b.at; });
    return out.empty() || twice != out.end() ? std::nullopt : std::optional(out);
}

}  // namespace

BendFields::BendFields(Session& session) : session_(session) {
    table_ = new QTableWidget(0, 3);
    table_->setObjectName("fixKnots");
    table_->setAccessibleName("Knots");
    table_->setHorizontalHeaderLabels({"knot", "changes by", "reads"});
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->setColumnWidth(1, 84);
    table_->setColumnWidth(2, 64);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(24);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setShowGrid(false);
    add_ = makeButton("Add a knot", "addKnot");
    remove_ = makeButton("Remove it", "removeKnot");
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(add_);
    buttons->addWidget(remove_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(table_);
    column->addLayout(buttons);
    connect(add_, &QPushButton::clicked, this, &BendFields::addKnot);
    connect(remove_, &QPushButton::clicked, this, &BendFields::removeKnot);
    connect(table_, &QTableWidget::itemChanged, this, [this] {
        if (!showing_) emit edited();
    });
}

void BendFields::show(const Fix& fix, const FixContext& context) {
    showing_ = true;
    knots_ = std::get<BendFix>(fix.body).knots;
    context_ = context;
    shown_.assign(knots_.size(), {});
    table_->setRowCount(static_cast<int>(knots_.size()));
    for (int row = 0; row < table_->rowCount(); ++row) showRow(row);
    table_->setFixedHeight(std::clamp(24 * (table_->rowCount() + 1) + 6, 80, 150));
    remove_->setEnabled(knots_.size() > 2);
    showing_ = false;
}

void BendFields::showRow(int row) {
    const auto& k = knots_[static_cast<std::size_t>(row)];
    const double now = context_.valueAt(k.time);
    QStringList& cells = shown_[static_cast<std::size_t>(row)];
    cells = {QString::fromStdString(session_.zone().shortText(k.time)), byText(k.by),
             std::isfinite(now) ? QString::number(now + k.by, 'g', 6) : "–"};
    for (int c = 0; c < 3; ++c) table_->setItem(row, c, new QTableWidgetItem(cells[c]));
}

/// Marks a cell; false, for the caller to give back.
bool BendFields::wrong(int row, int column, const QString& why) {
    showing_ = true;
    if (QTableWidgetItem* cell = table_->item(row, column)) {
        cell->setForeground(session_.theme().accent);
        cell->setToolTip(why);
    }
    showing_ = false;
    return false;
}

/// Takes what was typed over a knot's cells.
bool BendFields::takeRow(int row, BendFix::Knot& k, const FixContext& context) {
    const QStringList& shown = shown_[static_cast<std::size_t>(row)];
    const auto typed = [&](int column) -> std::optional<QString> {
        const QString text = table_->item(row, column)->text();
        return text == shown[column] ? std::nullopt : std::optional(text);
    };
    if (const auto time = typed(0)) {
        const auto range = parseTimePhrase(time->toStdString(), session_.zone(), session_.view().record(),
                                           session_.view().view());
        if (!range) return wrong(row, 0, "no time");
        k.time = range->from;
    }
    if (const auto text = typed(1)) {
        const auto by = numberIn(*text);
        if (!by) return wrong(row, 1, "no number");
        k.by = *by;
    } else if (const auto readsText = typed(2)) {
        const auto reads = numberIn(*readsText);
        const double now = context.valueAt(k.time);
        if (!reads || !std::isfinite(now))
            return wrong(row, 2, reads ? "no value to change there" : "no number");
        k.by = QString::number(*reads - now, 'g', 12).toDouble();
    }
    return true;
}

bool BendFields::take(Fix& fix, const FixContext& context) {
    if (showing_) return true;
    // Their edges may have been moved since; knots that were added or taken away are here alone.
    const auto& known = std::get<BendFix>(fix.body).knots;
    auto knots = known.size() == knots_.size() ? known : knots_;
    for (int row = 0; row < table_->rowCount(); ++row)
        if (!takeRow(row, knots[static_cast<std::size_t>(row)], context)) return false;
    std::sort(knots.begin(), knots.end(), [](const auto& a, const auto& b) { return a.time < b.time; });
    const auto twice = std::adjacent_find(knots.begin(), knots.end(),
                                          [](const auto& a, const auto& b) { return a.time == b.time; });
    if (twice != knots.end()) return wrong(table_->currentRow(), 0, "there is a knot at that time");
    std::get<BendFix>(fix.body).knots = std::move(knots);
    return true;
}

/// In the middle of the widest space between knots, on the line that is there.
void BendFields::addKnot() {
    std::size_t widest = 1;
    for (std::size_t i = 1; i < knots_.size(); ++i)
        if (knots_[i].time - knots_[i - 1].time > knots_[widest].time - knots_[widest - 1].time) widest = i;
    if (knots_.size() < 2) return;
    const auto &a = knots_[widest - 1], &b = knots_[widest];
    knots_.insert(knots_.begin() + static_cast<std::ptrdiff_t>(widest),
                  {a.time + (b.time - a.time) / 2, (a.by + b.by) / 2});
    showing_ = true;
    shown_.insert(shown_.begin() + static_cast<std::ptrdiff_t>(widest), QStringList());
    table_->insertRow(static_cast<int>(widest));
    showRow(static_cast<int>(widest));
    showing_ = false;
    emit edited();
}

void BendFields::removeKnot() {
    const int row = table_->currentRow();
    if (row < 0 || knots_.size() <= 2) return;
    showing_ = true;
    knots_.erase(knots_.begin() + row);
    shown_.erase(shown_.begin() + row);
    table_->removeRow(row);
    showing_ = false;
    emit edited();
}

QString BendFields::says() const {
    return "The change runs in lines from knot to knot. Drag the knots, or type over them.";
}

CurveFields::CurveFields(Session& session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    for (int i = 0; i < 2; ++i) {
        at_[i] = new MomentField(session, i ? "fixSecondAt" : "fixFirstAt",
                                 i ? "Second calibration at" : "Calibrated at");
        points_[i] = makeField(i ? "fixSecondPoints" : "fixFirstPoints", "Value: change, …");
        points_[i]->setPlaceholderText("value: change, value: change");
        addRow(column, i ? "And at" : "Calibrated at", at_[i]);
        column->addWidget(points_[i]);
        for (QLineEdit* f : {static_cast<QLineEdit*>(at_[i]), points_[i]})
            connect(f, &QLineEdit::editingFinished, this, [this, f] {
                if (f->isModified()) emit edited();
            });
    }
    at_[1]->setPlaceholderText("not again");
}

void CurveFields::show(const Fix& fix, const FixContext&) {
    const auto& calibrations = std::get<CurveFix>(fix.body).calibrations;
    for (std::size_t i = 0; i < 2; ++i) {
        const bool there = i < calibrations.size();
        if (there)
            at_[i]->setMoment(calibrations[i].time);
        else
            at_[i]->clear();
        points_[i]->setText(there ? pointsText(calibrations[i].points) : QString());
        for (QLineEdit* f : {static_cast<QLineEdit*>(at_[i]), points_[i]})
            f->setModified(false), markWrong(f, false);
    }
}

bool CurveFields::take(Fix& fix, const FixContext&) {
    const bool typed =
        at_[0]->isModified() || at_[1]->isModified() || points_[0]->isModified() || points_[1]->isModified();
    if (!typed) return true;
    const CurveFix before = std::get<CurveFix>(fix.body);
    CurveFix curve;
    for (std::size_t i = 0; i < 2; ++i) {
        const bool empty = points_[i]->text().trimmed().isEmpty() && at_[i]->text().trimmed().isEmpty();
        if (i == 1 && empty) break;
        const auto points = pointsIn(points_[i]->text());
        // A moment shown to the minute stays as exact as it was unless it was typed again.
        const bool asBefore = !at_[i]->isModified() && i < before.calibrations.size();
        const auto at = asBefore ? std::optional(before.calibrations[i].time) : at_[i]->moment();
        markWrong(points_[i], !points, "pairs like 30: +1, 70: −1");
        markWrong(at_[i], !at, "no time");
        if (!points || !at) return false;
        curve.calibrations.push_back({*at, *points});
    }
    if (curve.calibrations.size() == 2) {
        markWrong(at_[1], curve.calibrations[0].time == curve.calibrations[1].time, "the same time twice");
        if (curve.calibrations[0].time == curve.calibrations[1].time) return false;
    }
    std::sort(curve.calibrations.begin(), curve.calibrations.end(),
              [](const auto& a, const auto& b) { return a.time < b.time; });
    std::get<CurveFix>(fix.body) = std::move(curve);
    return true;
}

QString CurveFields::says() const {
    return "The change depends on the value: lines between the points. Between two calibrations it moves in "
           "time.";
}

}  // namespace jacinth::app
