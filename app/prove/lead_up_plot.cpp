#include "app/prove/lead_up_plot.h"

#include "app/base/save_picture.h"

namespace jacinth::app {
namespace {
constexpr Duration kAfter = 8 * kHour;
constexpr int kPixels = 420;
}  // namespace

LeadUpPlot::LeadUpPlot(Session& session, QWidget* parent) : QCustomPlot(parent), session_(session) {
    setObjectName("leadUpPlot");
    givePictureMenu(this);
    setAccessibleName("The days before each failure");
    setMinimumHeight(150);
    plotLayout()->setRowSpacing(0);
    connect(&session, &Session::themeChanged, this, &LeadUpPlot::rebuild);
}

void LeadUpPlot::show(std::vector<Line> failures, std::vector<std::string> roles, const ProveSpec& spec,
                      const std::vector<AlarmVerdict>& alarms) {
    failures_ = std::move(failures);
    roles_ = std::move(roles);
    spec_ = spec;
    alarms_ = alarms;
    columns_.clear();
    rebuild();
    read();
}

void LeadUpPlot::read() {
    if (failures_.empty() || roles_.empty()) return;
    const Which which = session_.view().which();
    const auto work = [this, failures = failures_, roles = roles_, before = lookBack(),
                       which](Study& study) -> BackgroundReader::Deliver {
        auto columns = std::make_shared<std::map<std::string, std::vector<std::vector<Summary>>>>();
        for (const std::string& role : roles)
            for (const Line& f : failures) {
                auto& lines = (*columns)[role];
                lines.emplace_back();
                const Tag* tag = study.catalog().tagInRole(f.asset, role);
                if (tag && tag->kind != TagKind::State)
                    lines.back() =
                        study.columns(*tag, {f.failure - before, f.failure + kAfter}, kPixels, which);
            }
        return [this, columns] {
            columns_ = std::move(*columns);
            rebuild();
        };
    };
    session_.reader().ask(this, "lead-up", work);
}

void LeadUpPlot::setStrong(AssetId asset, Instant failure) {
    strong_ = {asset, failure};
    rebuild();
}

void LeadUpPlot::rebuild() {
    clearGraphs();
    clearItems();
    plotLayout()->clear();
    setBackground(session_.theme().window);
    for (std::size_t i = 0; i < roles_.size(); ++i) {
        auto* rect = new QCPAxisRect(this);
        rect->setLayer("background");  // under the stretch of useful warning
        plotLayout()->addElement(static_cast<int>(i), 0, rect);
        drawPane(rect, roles_[i], i + 1 == roles_.size());
    }
    if (roles_.empty()) {
        auto* words =
            new QCPTextElement(this,
                               failures_.empty() ? "No failures on record. Import them with File › Import."
                                                 : "Write a rule: the tags it uses are lined up here.",
                               uiFont());
        words->setTextColor(session_.theme().second);
        plotLayout()->addElement(0, 0, words);
    }
    replot(rpQueuedReplot);
}

void LeadUpPlot::drawPane(QCPAxisRect* rect, const std::string& role, bool last) {
    layAxes(rect, last);
    const PaneName name = drawLines(rect, role);
    drawUsefulWarning(rect);
    writeIn(rect, name.text, name.colour, 0.01, Qt::AlignLeft | Qt::AlignTop);
    if (role == roles_.front()) {
        const double middle =
            (toHours(lookBack()) - toHours(spec_.most + spec_.least) / 2) / toHours(lookBack() + kAfter);
        writeIn(rect,
                QString("useful warning: %1 to %2 before")
                    .arg(QString::fromStdString(sayDuration(spec_.most)),
                         QString::fromStdString(sayDuration(spec_.least))),
                session_.theme().goldEdge, middle, Qt::AlignHCenter | Qt::AlignTop);
    }
    if (last) markAlarms(rect);
}

void LeadUpPlot::layAxes(QCPAxisRect* rect, bool last) {
    const Theme& theme = session_.theme();
    QFont small = uiFont();
    small.setPixelSize(11);
    rect->setAutoMargins(QCP::msNone);
    rect->setMargins(QMargins(54, 2, 10, last ? 24 : 4));
    rect->setBackground(theme.plot);
    const Duration before = lookBack();
    QCPAxis* x = rect->axis(QCPAxis::atBottom);
    QCPAxis* y = rect->axis(QCPAxis::atLeft);
    for (QCPAxis* axis : {x, y}) {
        axis->setBasePen(QPen(theme.hairline));
        axis->setTickPen(Qt::NoPen);
        axis->setSubTicks(false);
        axis->setTickLabelColor(theme.second);
        axis->setTickLabelFont(small);
        axis->grid()->setPen(QPen(faded(theme.hairline, 0.5), 1));
        axis->grid()->setZeroLinePen(Qt::NoPen);
    }
    x->setTickLabels(last);
    x->setRange(-toHours(before), toHours(kAfter));
    QSharedPointer<QCPAxisTickerText> ticker(new QCPAxisTickerText);
    for (int d = 0; d <= static_cast<int>(before / kDay); ++d)
        ticker->addTick(-24.0 * d, d == 0 ? "failure" : QString("−%1 d").arg(d));
    x->setTicker(ticker);
    y->ticker()->setTickCount(3);
}

LeadUpPlot::PaneName LeadUpPlot::drawLines(QCPAxisRect* rect, const std::string& role) {
    const Theme& theme = session_.theme();
    QCPAxis* x = rect->axis(QCPAxis::atBottom);
    QCPAxis* y = rect->axis(QCPAxis::atLeft);
    QColor colour = theme.traces[0];
    QString name = QString::fromStdString(role), unit;
    const auto known = columns_.find(role);
    for (std::size_t i = 0; i < failures_.size(); ++i) {
        const Line& f = failures_[i];
        const Tag* tag = session_.study().catalog().tagInRole(f.asset, role);
        if (!tag || tag->kind == TagKind::State) continue;
        if (unit.isNull()) colour = session_.tagColour(tag->id);  // one colour a pane, that of the first
        name = QString::fromStdString(tag->name);
        unit = QString::fromStdString(tag->unit);
        const bool strong = strong_ == std::pair(f.asset, f.failure);
        QCPGraph* g = addGraph(x, y);
        g->setPen(strong ? QPen(theme.ink, 1.8) : QPen(faded(colour, strong_.first ? 0.3 : 0.6), 1.1));
        Instant seen = kNoInstant;
        if (known == columns_.end() || i >= known->second.size()) continue;  // on its way
        for (const Summary& c : known->second[i]) {
            if (!c.usable) continue;
            if (seen != kNoInstant &&
                c.firstTime - seen > std::max<Duration>(tag->bridging().longestGap, kHour))
                g->addData(toHours(seen - f.failure), qQNaN());
            g->addData(toHours(c.firstTime - f.failure), c.sum / c.usable);
            seen = c.lastTime;
        }
    }
    y->rescale();
    y->scaleRange(1.2);
    return {name + (unit.isEmpty() ? "" : ", " + unit), colour};
}

void LeadUpPlot::drawUsefulWarning(QCPAxisRect* rect) {
    const Theme& theme = session_.theme();
    QCPAxis* x = rect->axis(QCPAxis::atBottom);
    QCPAxis* y = rect->axis(QCPAxis::atLeft);
    auto* useful = new QCPItemRect(this);
    useful->setClipAxisRect(rect);
    for (QCPItemPosition* p : {useful->topLeft, useful->bottomRight}) {
        p->setAxes(x, y);
        p->setAxisRect(rect);
        p->setTypeY(QCPItemPosition::ptAxisRectRatio);
    }
    useful->topLeft->setCoords(-toHours(spec_.most), 0);
    useful->bottomRight->setCoords(-toHours(spec_.least), 1);
    useful->setPen(Qt::NoPen);
    useful->setBrush(faded(theme.goldFill, 0.16));
    useful->setLayer("background");
    auto* line = new QCPItemStraightLine(this);
    line->setClipAxisRect(rect);
    line->point1->setAxes(x, y);
    line->point2->setAxes(x, y);
    line->point1->setCoords(0, 0);
    line->point2->setCoords(0, 1);
    line->setPen(QPen(theme.ink, 1.6));
}

void LeadUpPlot::writeIn(QCPAxisRect* rect, const QString& text, const QColor& ink, double at,
                         Qt::Alignment align) {
    auto* item = new QCPItemText(this);
    item->setClipAxisRect(rect);
    item->position->setAxisRect(rect);
    item->position->setType(QCPItemPosition::ptAxisRectRatio);
    item->position->setCoords(at, 0.03);
    item->setPositionAlignment(align);
    item->setText(text);
    item->setColor(ink);
    QFont bold = uiFont();
    bold.setWeight(QFont::DemiBold);
    item->setFont(bold);
}

/// Where the rule first spoke before each failure.
void LeadUpPlot::markAlarms(QCPAxisRect* rect) {
    const Theme& theme = session_.theme();
    for (const Line& f : failures_)
        for (const AlarmVerdict& a : alarms_) {
            if (a.asset != f.asset || a.range.from > f.failure || f.failure - a.range.from > lookBack())
                continue;
            auto* mark = new QCPItemText(this);
            mark->setClipAxisRect(rect);
            mark->position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
            mark->position->setAxisRect(rect);
            mark->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
            mark->position->setCoords(-toHours(f.failure - a.range.from), 0.93);
            mark->setText("◆");
            mark->setColor(a.verdict == Verdict::True ? theme.good : theme.accent);
            mark->setFont(uiFont());
        }
}

}  // namespace jacinth::app
