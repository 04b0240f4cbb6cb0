#include "app/survey/peaks_page.h"

#include "app/plot/tag_trace.h"

namespace jacinth::app {
namespace {
constexpr std::size_t kMostMarks = 4000;  // more would only be a smear
constexpr int kSliderSteps = 200;

/// The slider runs by powers, so that small prominences can be distinguished: 0, then a thousandth to all of
/// the spread.
double fromSlider(int step, double spread) {
    return step == 0 ? 0 : spread * std::pow(10.0, -3.0 + 3.0 * step / kSliderSteps);
}
}  // namespace

PeaksPage::PeaksPage(Session& session) : BenchPage(session) {
    setObjectName("Peaks");
    plot_ = new TimePlot(session);
    plot_->setObjectName("peaksPlot");
    plot_->setAccessibleName("Peaks");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(plot_, 1);

    side_->addWidget(makeLabel("Look for", "section"));
    troughs_ = new QCheckBox("low points instead");
    troughs_->setObjectName("peakTroughs");
    prominence_ = new QSlider(Qt::Horizontal);
    prominence_->setObjectName("peakProminenceSlider");
    prominence_->setAccessibleName("Least prominence");
    prominence_->setRange(0, kSliderSteps);
    prominenceField_ = makeField("peakProminence", "Least prominence");
    height_ = makeField("peakHeight", "Least height");
    width_ = makeField("peakWidth", "Width");
    width_->setPlaceholderText("like 0 – 5m, or 10m –");
    distance_ = makeField("peakDistance", "Least distance");
    distance_->setPlaceholderText("like 30m");
    height_->setPlaceholderText("any");
    addRow(side_, "prominence from", prominenceField_);
    side_->addWidget(prominence_);
    addRow(side_, "height from", height_);
    addRow(side_, "width", width_);
    addRow(side_, "apart by", distance_);
    addRow(side_, "", troughs_);
    side_->addWidget(makeRule());
    count_ = makeLabel("", "figure");
    count_->setObjectName("peakCount");
    split_ = makeLabel("", "second");
    split_->setObjectName("peakSplit");
    split_->setWordWrap(true);
    widths_ = new HistogramView(session);
    side_->addWidget(count_);
    side_->addWidget(split_);
    side_->addWidget(makeLabel("log₁₀ of the width in seconds", "second"));
    side_->addWidget(widths_);
    side_->addWidget(makeRule());
    keep_ = makeButton("Keep as spans", "keepPeaks");
    send_ = makeButton("Send the narrow ones to Mend", "sendPeaks");
    side_->addWidget(keep_);
    side_->addWidget(send_);
    addCopyButton(side_);
    side_->addStretch();

    connect(prominence_, &QSlider::valueChanged, this, [this](int step) {
        if (setting_) return;
        typed_ = true;
        prominenceField_->setText(QString::number(fromSlider(step, spread_), 'g', 3));
        refreshSoon();
    });
    connect(prominenceField_, &QLineEdit::textEdited, this,
            [this](const QString& t) { typed_ = !t.trimmed().isEmpty(); });
    for (QLineEdit* f : {prominenceField_, height_, width_, distance_})
        connect(f, &QLineEdit::textEdited, this, &PeaksPage::refreshSoon);
    connect(troughs_, &QCheckBox::toggled, this, &PeaksPage::refreshSoon);
    connect(keep_, &QPushButton::clicked, this, &PeaksPage::keep);
    connect(send_, &QPushButton::clicked, this, &PeaksPage::send);
    connect(plot_, &TimePlot::pointed, this, &BenchPage::pointerMoved);
    plot_->setEmptyText("Choose a tag with numbers in the plant panel.");
}

QString PeaksPage::title() const {
    const Tag* tag = numberTag();
    return tag ? QString::fromStdString(tag->path()).replace("/", " · ") +
                     (troughs_->isChecked() ? ": low points" : ": peaks")
               : "Peaks";
}

QString PeaksPage::pointerText() const {
    const auto t = plot_->pointer();
    if (!t) return {};
    QString out = QString::fromStdString(session_.zone().preciseText(*t));
    const double near = 6.0 / std::max(1, plot_->width()) * toNanoseconds(session_.view().view().length());
    for (const Peak& p : peaks_)
        if (std::abs(toNanoseconds(p.time - *t)) < near)
            return out + QString(" · height %1 · prominence %2 · width %3")
                             .arg(valueText(p.height), valueText(p.prominence),
                                  QString::fromStdString(sayDuration(p.width() / kSecond * kSecond)));
    return out;
}

std::optional<PeakSearch> PeaksPage::search() {
    PeakSearch out;
    bool good = true;
    const auto number = [&](QLineEdit* field, double& to) {
        const QString text = field->text().trimmed().replace(',', '.').replace(QChar(0x2212), '-');
        bool fine = true;
        const double v = text.isEmpty() ? to : text.toDouble(&fine);
        markWrong(field, !fine, "no number");
        good &= fine;
        if (fine) to = v;
    };
    const auto length = [&](QLineEdit* field, const QString& text, Duration& to) {
        if (text.trimmed().isEmpty()) return;
        const auto d = parseDuration(text.trimmed() == "0" ? "0s" : text.trimmed().toStdString());
        markWrong(field, !d, "write a length like 90s, 5m or 2h");
        good &= static_cast<bool>(d);
        if (d) to = *d;
    };
    number(prominenceField_, out.leastProminence);
    number(height_, out.leastHeight);
    markWrong(width_, false);
    markWrong(distance_, false);
    const QStringList widths = QString(width_->text()).replace("to", "–").replace('-', "–").split("–");
    length(width_, widths.value(0), out.leastWidth);
    if (widths.size() > 1) length(width_, widths.value(1), out.greatestWidth);
    length(distance_, distance_->text(), out.leastDistance);
    out.troughs = troughs_->isChecked();
    if (out.troughs && std::isfinite(out.leastHeight)) out.leastHeight = -out.leastHeight;
    return good ? std::optional(out) : std::nullopt;
}

void PeaksPage::refresh() {
    emit titleChanged();
    const Tag* tag = numberTag();
    const auto wanted = search();
    for (QPushButton* b : {keep_, send_}) b->setEnabled(false);
    if (!tag) {
        plot_->setPanes({});
        return;
    }
    if (of_ != tag->id) {
        of_ = tag->id;
        plot_->setPanes({PaneSpec{{traceOf(session_, tag->id)}}});
        if (!typed_) prominenceField_->clear();
    }
    if (!wanted) return;
    const bool automatic = prominenceField_->text().isEmpty();
    session_.runJob(this, "peaks", "Finding peaks",
                    [this, id = tag->id, wanted = *wanted, automatic, range = session_.view().view(),
                     which = session_.view().which()](JobContext& job) -> std::function<void()> {
                        const auto read = allSamples(job.study, *job.study.catalog().tag(id), range, which);
                        if (!read) return [this, why = read.error().message] { cannot(why); };
                        const SeriesView in = read->view().within(range);
                        auto found = std::make_shared<Found>();
                        const Summary all = summarize(in);
                        if (all.usable) found->spread = all.greatest - all.least;
                        PeakSearch how = wanted;
                        if (automatic)
                            how.leastProminence = std::max(noiseProminence(in), found->spread / 1000);
                        found->prominence = how.leastProminence;
                        if (job.progress.stopped(0.3)) return {};
                        found->peaks = findPeaks(in, how);
                        found->narrow = narrowBelow(found->peaks);
                        return [this, found, id] { show(std::move(*found), id); };
                    });
}

void PeaksPage::cannot(const std::string& why) {
    peaks_.clear();
    count_->clear();
    split_->setText(QString::fromStdString(why));
    plot_->setPoints(0, {});
}

void PeaksPage::show(Found found, TagId id) {
    if (id != of_) return;
    peaks_ = std::move(found.peaks);
    narrow_ = found.narrow;
    spread_ = found.spread;
    setting_ = true;
    prominence_->setValue(
        found.prominence > 0 && spread_ > 0
            ? static_cast<int>(std::lround((std::log10(found.prominence / spread_) + 3) / 3 * kSliderSteps))
            : 0);
    setting_ = false;
    prominenceField_->setPlaceholderText(QString::number(found.prominence, 'g', 3) + ", past the noise");
    std::vector<PointMark> points;
    for (const Peak& p : peaks_)
        if (points.size() < kMostMarks)
            points.push_back({p.time, p.height, p.width() < narrow_ ? PointLook::Tick : PointLook::Dot});
    plot_->setPoints(0, std::move(points));
    std::vector<double> logs;
    for (const Peak& p : peaks_) logs.push_back(std::log10(std::max(1e-3, toSeconds(p.width()))));
    widths_->setValues(logs);
    const auto narrow =
        std::count_if(peaks_.begin(), peaks_.end(), [&](const Peak& p) { return p.width() < narrow_; });
    count_->setText(QString("%1 %2").arg(peaks_.size()).arg(peaks_.size() == 1 ? "peak" : "peaks"));
    split_->setText(
        peaks_.empty() ? "None in the time in view with these settings."
        : narrow_ > Duration::zero()
            ? QString("%1 narrow (below %2), more likely spikes of the sensor (│); %3 broad (●).")
                  .arg(narrow)
                  .arg(QString::fromStdString(sayDuration(std::max(kSecond, narrow_ / kSecond * kSecond))))
                  .arg(static_cast<std::ptrdiff_t>(peaks_.size()) - narrow)
            : "Their widths fall into no two groups: none stands out as a spike.");
    keep_->setEnabled(!peaks_.empty() && peaks_.size() < 100'000);
    send_->setEnabled(narrow > 0);
    plot_->reloadSoon();
}

void PeaksPage::keep() {
    const Tag* tag = session_.tag(of_);
    if (!tag) return;
    const Tag copy = *tag;
    const std::string track = "Peaks of " + copy.path();
    if (session_.tryChange([&] { keepPeaks(session_.study(), track, copy, peaks_, narrow_); }))
        emit session_.notified(
            QString("%1 spans kept on “%2”").arg(peaks_.size()).arg(QString::fromStdString(track)));
}

void PeaksPage::send() {
    const Tag* tag = session_.tag(of_);
    if (!tag) return;
    const Tag copy = *tag;
    std::size_t sent = 0;
    if (!session_.tryChange([&] { sent = proposeHiding(session_.study(), copy, peaks_, narrow_); })) return;
    emit session_.notified(QString("%1 spikes proposed for mending; they wait in the study").arg(sent));
    for (const Peak& p : peaks_)
        if (p.width() < narrow_) return emit asked(MendStretch{{p.left, p.right}});
}

QString PeaksPage::figures() const {
    QString out = "time\theight\tprominence\twidth s\tshape\n";
    for (const Peak& p : peaks_)
        out += QString("%1\t%2\t%3\t%4\t%5\n")
                   .arg(QString::fromStdString(toIso(p.time)), fullNumber(p.height), fullNumber(p.prominence),
                        fullNumber(toSeconds(p.width())), p.width() < narrow_ ? "narrow" : "broad");
    return out;
}

}  // namespace jacinth::app
