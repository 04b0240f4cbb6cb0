#include "app/mend/fix_fields.h"

#include <QCheckBox>

#include "app/base/time_field.h"
#include "app/base/ui.h"
#include "app/mend/knot_fields.h"
#include "core/base/text.h"
#include "store/fix_body.h"

namespace jacinth::app {
namespace {

/// A column of rows, which tells that it was edited when a field is left.
class RowsOfFields : public FixFields {
  public:
    RowsOfFields() : rows_(new QVBoxLayout(this)) {
        rows_->setContentsMargins(0, 0, 0, 0);
        rows_->setSpacing(6);
    }

  protected:
    QLineEdit* field(const QString& name, const QString& words) {
        QLineEdit* made = makeField(name, words);
        addRow(rows_, words, made);
        connect(made, &QLineEdit::editingFinished, this, [this, made] {
            if (made->isModified()) emit edited();
        });
        return made;
    }
    QCheckBox* box(const QString& name, const QString& words) {
        auto* made = new QCheckBox(words);
        made->setObjectName(name);
        rows_->addWidget(made);
        connect(made, &QCheckBox::clicked, this, &FixFields::edited);
        return made;
    }
    QComboBox* choice(const QString& name, const QString& words, const QStringList& items) {
        QComboBox* made = makeChoice(name, words, items);
        addRow(rows_, words, made);
        connect(made, &QComboBox::activated, this, &FixFields::edited);
        return made;
    }
    static void put(QLineEdit* field, double v) {
        putText(field, std::isfinite(v) ? amountText(v) : QString());
    }
    /// What it reads there: seven digits are more than a sensor gives.
    static void putReads(QLineEdit* field, double v) {
        putText(field, std::isfinite(v) ? QString::number(v, 'g', 7) : QString());
    }
    static void putText(QLineEdit* field, const QString& text) {
        field->setText(text);
        field->setCursorPosition(0);  // the first digits are those that count
        field->setModified(false);
        markWrong(field, false);
    }
    /// Takes a number that was typed; true where none was.
    template <typename Take>
    static bool take(QLineEdit* field, Take take) {
        if (!field->isModified()) return true;
        const auto v = numberIn(field->text());
        markWrong(field, !v, "no number");
        if (v) take(*v);
        return v.has_value();
    }
    template <typename Take>
    static bool takeLength(QLineEdit* field, Take take) {
        if (!field->isModified()) return true;
        const auto d = parseDuration(field->text().trimmed().toStdString());
        markWrong(field, !d || *d <= Duration::zero(), "no length of time, like 2h or 30m");
        if (!d || *d <= Duration::zero()) return false;
        take(*d);
        return true;
    }
    /// What the value must read is turned into how much it changes.
    static bool takeReads(QLineEdit* field, double now, double& by) {
        return take(field, [&](double reads) {
            // Without the last digits of the subtraction, which nobody typed.
            if (std::isfinite(now)) by = QString::number(reads - now, 'g', 12).toDouble();
        });
    }

    QVBoxLayout* rows_;
};

class ShiftFields : public RowsOfFields {
  public:
    ShiftFields() : by_(field("fixBy", "Changes by")), reads_(field("fixReads", "Start reads")) {
        margin_ = makeField("levelMargin", "Levels over");
        margin_->setText("2h");
        margin_->setToolTip(
            "Of the median level on both sides of the start, and of the end where it returns");
        auto* measure = makeButton("Measure", "measureLevels");
        measure->setToolTip("Take the amount from the levels on both sides");
        auto* line = new QHBoxLayout;
        line->addWidget(margin_, 1);
        line->addWidget(measure);
        auto* both = new QWidget;
        both->setLayout(line);
        line->setContentsMargins(0, 0, 0, 0);
        addRow(rows_, "Levels over", both);
        byHand_ = new QCheckBox("from two stretches by hand");
        byHand_->setObjectName("twoStretches");
        byHand_->setToolTip("Drag two stretches in the plot: the step between their levels is taken out");
        rows_->addWidget(byHand_);
        connect(measure, &QPushButton::clicked, this, &ShiftFields::measure);
        connect(margin_, &QLineEdit::returnPressed, this, &ShiftFields::measure);
        connect(byHand_, &QCheckBox::clicked, this, &FixFields::twoStretchesAsked);
    }
    void show(const Fix& fix, const FixContext& context) override {
        const double by = std::get<ShiftFix>(fix.body).by;
        put(by_, by);
        putReads(reads_, context.valueAt(fix.from) + by);
    }
    bool take(Fix& fix, const FixContext& context) override {
        double& by = std::get<ShiftFix>(fix.body).by;
        const bool typed = RowsOfFields::take(by_, [&](double v) { by = v; });
        return takeReads(reads_, context.valueAt(fix.from), by) && typed;
    }
    QString says() const override { return "Every value of the stretch changes by the same amount."; }

  private:
    void measure() {
        const auto margin = parseDuration(margin_->text().trimmed().toStdString());
        const bool good = margin && *margin > Duration::zero();
        markWrong(margin_, !good, "no length of time, like 2h or 30m");
        if (good) emit levelsAsked(*margin);
    }
    QLineEdit *by_, *reads_, *margin_;
    QCheckBox* byHand_;
};

class RampFields : public RowsOfFields {
  public:
    RampFields()
        : startBy_(field("fixStartBy", "Start changes by")),
          startReads_(field("fixStartReads", "Start reads")),
          endBy_(field("fixEndBy", "End changes by")),
          endReads_(field("fixEndReads", "End reads")) {}
    void show(const Fix& fix, const FixContext& context) override {
        const RampFix& ramp = std::get<RampFix>(fix.body);
        put(startBy_, ramp.startBy);
        put(endBy_, ramp.endBy);
        putReads(startReads_, context.valueAt(fix.from) + ramp.startBy);
        putReads(endReads_, context.valueAt(fix.to) + ramp.endBy);
    }
    bool take(Fix& fix, const FixContext& context) override {
        RampFix& ramp = std::get<RampFix>(fix.body);
        bool good = RowsOfFields::take(startBy_, [&](double v) { ramp.startBy = v; });
        good = RowsOfFields::take(endBy_, [&](double v) { ramp.endBy = v; }) && good;
        good = takeReads(startReads_, context.valueAt(fix.from), ramp.startBy) && good;
        return takeReads(endReads_, context.valueAt(fix.to), ramp.endBy) && good;
    }
    QString says() const override { return "The change grows evenly from the start to the end."; }

  private:
    QLineEdit *startBy_, *startReads_, *endBy_, *endReads_;
};

/// Gaps are filled: what bridge, borrow and decay share.
class FillFields : public RowsOfFields {
  protected:
    void addOver(const char* name) { over_ = box(name, "In place of what is there"); }
    QCheckBox* over_ = nullptr;
};

class BridgeFields : public FillFields {
  public:
    BridgeFields()
        : way_(choice("fixWay", "Way", {"hold", "line", "cubic", "spline"})),
          longest_(field("fixLongest", "Longest gap")) {
        addOver("bridgeOver");
    }
    void show(const Fix& fix, const FixContext&) override {
        const BridgeFix& bridge = std::get<BridgeFix>(fix.body);
        way_->setCurrentIndex(static_cast<int>(bridge.way));
        putText(longest_, QString::fromStdString(sayDuration(bridge.longest)));
        over_->setChecked(bridge.over);
    }
    bool take(Fix& fix, const FixContext&) override {
        BridgeFix& bridge = std::get<BridgeFix>(fix.body);
        bridge.way = static_cast<BridgeFix::Way>(way_->currentIndex());
        bridge.over = over_->isChecked();
        return takeLength(longest_, [&](Duration d) { bridge.longest = d; });
    }
    QString says() const override {
        return "Gaps are filled from the samples on both sides. Filled samples are of uncertain quality.";
    }

  private:
    QComboBox* way_;
    QLineEdit* longest_;
};

class BorrowFields : public FillFields {
  public:
    BorrowFields() : twin_(choice("fixTwin", "Twin", {})), margin_(field("borrowMargin", "Compare over")) {
        addOver("borrowOver");
    }
    void show(const Fix& fix, const FixContext& context) override {
        const BorrowFix& borrow = std::get<BorrowFix>(fix.body);
        twin_->clear();
        for (const Tag& t : context.twins)
            twin_->addItem(QString::fromStdString(t.asset == context.tag.asset ? t.name : t.path()),
                           QVariant::fromValue<qlonglong>(t.id.number));
        twin_->setCurrentIndex(twin_->findData(QVariant::fromValue<qlonglong>(borrow.twin.number)));
        putText(margin_, QString::fromStdString(sayDuration(borrow.margin)));
        over_->setChecked(borrow.over);
    }
    bool take(Fix& fix, const FixContext&) override {
        BorrowFix& borrow = std::get<BorrowFix>(fix.body);
        borrow.twin = TagId(twin_->currentData().toLongLong());
        borrow.over = over_->isChecked();
        return takeLength(margin_, [&](Duration d) { borrow.margin = d; });
    }
    QString says() const override {
        return "Gaps are filled with the twin's samples, scaled to what both read around the gap.";
    }

  private:
    QComboBox* twin_;
    QLineEdit* margin_;
};

class DecayFields : public FillFields {
  public:
    DecayFields() : tau_(field("fixTau", "Time constant τ")), margin_(field("decayMargin", "Fitted over")) {
        tau_->setPlaceholderText("fitted");
        addOver("decayOver");
    }
    void show(const Fix& fix, const FixContext&) override {
        const DecayFix& decay = std::get<DecayFix>(fix.body);
        putText(tau_, decay.tau ? QString::fromStdString(sayDuration(*decay.tau)) : QString());
        putText(margin_, QString::fromStdString(sayDuration(decay.margin)));
        over_->setChecked(decay.over);
    }
    bool take(Fix& fix, const FixContext&) override {
        DecayFix& decay = std::get<DecayFix>(fix.body);
        decay.over = over_->isChecked();
        bool good = true;
        if (tau_->text().trimmed().isEmpty())
            decay.tau.reset();
        else
            good = takeLength(tau_, [&](Duration d) { decay.tau = d; });
        return takeLength(margin_, [&](Duration d) { decay.margin = d; }) && good;
    }
    QString says() const override { return "Gaps are filled with an exponential decay through both ends."; }

  private:
    QLineEdit *tau_, *margin_;
};

class HideFields : public RowsOfFields {
  public:
    HideFields() : parts_(makeLabel("", "second")), all_(box("fixHideAll", "The whole stretch")) {
        parts_->setWordWrap(true);
        rows_->insertWidget(0, parts_);
        prominence_ = makeField("spikeProminence", "Spikes stand out by");
        prominence_->setPlaceholderText("by the noise");
        width_ = makeField("spikeWidth", "Spikes no wider than");
        width_->setPlaceholderText("3 samples");
        everywhere_ = new QCheckBox("In the whole record");
        everywhere_->setObjectName("spikesEverywhere");
        everywhere_->setChecked(true);
        auto* find = makeButton("Find spikes", "findSpikes");
        find->setToolTip("Shows the spikes with a tick each; Enter hides them all");
        addRow(rows_, "Stand out by", prominence_);
        addRow(rows_, "No wider than", width_);
        rows_->addWidget(everywhere_);
        rows_->addWidget(find);
        label_ = makeButton("Label them as…", "labelSpikes");
        label_->setToolTip("A label over each part; nothing is hidden by that");
        rows_->addWidget(label_);
        connect(find, &QPushButton::clicked, this, &HideFields::ask);
        connect(label_, &QPushButton::clicked, this, &HideFields::labelPartsAsked);
    }
    void show(const Fix& fix, const FixContext&) override {
        const HideFix& hide = std::get<HideFix>(fix.body);
        const auto n = static_cast<int>(hide.parts.size());
        parts_->setText(n == 0 ? QString()
                               : QString("%1 %2 in the stretch").arg(n).arg(n == 1 ? "part" : "parts"));
        parts_->setVisible(n > 0);
        all_->setChecked(n == 0);
        all_->setVisible(n > 0);
        label_->setVisible(n > 0);
    }
    bool take(Fix& fix, const FixContext&) override {
        if (all_->isChecked()) std::get<HideFix>(fix.body).parts.clear();
        return true;
    }
    QString says() const override {
        return "The samples stay in the record and turn bad: nothing is drawn or calculated from them.";
    }

  private:
    void ask() {
        SpikeSearch search;
        if (!prominence_->text().trimmed().isEmpty()) search.prominence = numberIn(prominence_->text());
        const auto width = parseDuration(width_->text().trimmed().toStdString());
        if (width) search.width = *width;
        const bool good = prominence_->text().trimmed().isEmpty() || search.prominence.value_or(0) > 0;
        markWrong(prominence_, !good, "a number above 0, or nothing");
        markWrong(width_, !width_->text().trimmed().isEmpty() && !width, "a length of time, like 30s");
        if (good && (width || width_->text().trimmed().isEmpty()))
            emit spikesAsked(search, everywhere_->isChecked());
    }
    QLabel* parts_;
    QCheckBox *all_, *everywhere_;
    QLineEdit *prominence_, *width_;
    QPushButton* label_;
};

class CutFields : public RowsOfFields {
  public:
    void show(const Fix&, const FixContext&) override {}
    bool take(Fix&, const FixContext&) override { return true; }
    QString says() const override { return "The stretch has no samples, and no line is drawn over it."; }
};

class ClockFields : public RowsOfFields {
  public:
    ClockFields() : by_(field("fixClockBy", "Moved by")) { by_->setPlaceholderText("like −1h"); }
    void show(const Fix& fix, const FixContext&) override {
        const Duration by = std::get<ClockFix>(fix.body).by;
        putText(by_, by == Duration::zero() ? QString()
                                            : (by < Duration::zero() ? "−" : "+") +
                                                  QString::fromStdString(sayDuration(std::chrono::abs(by))));
    }
    bool take(Fix& fix, const FixContext&) override {
        if (!by_->isModified()) return true;
        QString text = by_->text().trimmed().replace(QChar(0x2212), '-');
        const bool minus = text.startsWith('-');
        if (minus || text.startsWith('+')) text.remove(0, 1);
        const auto d = parseDuration(text.trimmed().toStdString());
        markWrong(by_, !d, "no length of time, like −1h");
        if (d) std::get<ClockFix>(fix.body).by = minus ? -*d : *d;
        return bool(d);
    }
    QString says() const override {
        return "The samples that were logged in the stretch move in time. All of them are kept.";
    }

  private:
    QLineEdit* by_;
};

}  // namespace

std::optional<double> numberIn(const QString& text) {
    QString plain = text.trimmed();
    plain.replace(QChar(0x2212), '-').replace(",", ".");
    if (plain.startsWith('+')) plain.remove(0, 1);
    return finiteNumber(plain.section(' ', 0, 0).toStdString());
}

QString amountText(double v) {
    if (v == 0) return "0";
    return QString::number(v, std::abs(v) >= 1e-4 && std::abs(v) < 1e15 ? 'f' : 'g',
                           QLocale::FloatingPointShortest);
}

FixFields* makeFixFields(FixKind kind, Session& session) {
    switch (kind) {
        case FixKind::Shift:
            return new ShiftFields;
        case FixKind::Ramp:
            return new RampFields;
        case FixKind::Bend:
            return new BendFields(session);
        case FixKind::Curve:
            return new CurveFields(session);
        case FixKind::Bridge:
            return new BridgeFields;
        case FixKind::Borrow:
            return new BorrowFields;
        case FixKind::Decay:
            return new DecayFields;
        case FixKind::Hide:
            return new HideFields;
        case FixKind::Cut:
            return new CutFields;
        case FixKind::Clock:
            return new ClockFields;
    }
    return nullptr;
}

}  // namespace jacinth::app
