#include "app/label/agreement_page.h"

#include <QScrollArea>
#include <cmath>

#include "app/base/swatch.h"
#include "store/judgement.h"
#include "work/label/agree.h"
#include "work/label/labels.h"
#include "work/label/settle.h"

namespace jacinth::app {
namespace {

constexpr const char* kNothing = "nothing";

QString said(const std::string& kind) {
    return kind.empty() ? kNothing : QString::fromStdString(kind);
}

}  // namespace

AgreementPage::AgreementPage(Session& session) : BenchPage(session, false) {
    build();
    for (QComboBox* box : {one_, two_, scope_})
        connect(box, &QComboBox::activated, this, &AgreementPage::refreshSoon);
    connect(view_, &AgreementView::chosen, this, &AgreementPage::choose);
    connect(list_->selectionModel(), &QItemSelectionModel::currentRowChanged, this,
            [this](const QModelIndex& i) {
                if (i.isValid()) choose(static_cast<int>(i.data(Qt::UserRole).toLongLong()) - 1);
            });
}

void AgreementPage::build() {
    view_ = new AgreementView(session_);
    auto* area = new QScrollArea;
    area->setWidget(view_);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    model_ = new RowsModel({"asset", "from", "length", "one says", "the other says"}, this);
    list_ = makeTable(model_, "differenceTable", {70, 120, 90, 180, 0});
    list_->setFixedHeight(190);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(area, 1);
    column->addWidget(makeLabel("Differences", "section"));
    column->addWidget(list_);
    one_ = makeChoice("agreeOne", "One", {});
    two_ = makeChoice("agreeTwo", "The other", {});
    scope_ = makeChoice("agreeScope", "Over", {"the record", "the time in view"});
    side_->addWidget(makeLabel("Whose labels", "section"));
    addRow(side_, "One", one_);
    addRow(side_, "The other", two_);
    addRow(side_, "Over", scope_);
    figures_ = makeLabel("");
    figures_->setObjectName("agreeFigures");
    figures_->setWordWrap(true);
    side_->addWidget(figures_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Settle the chosen difference", "section"));
    chosenText_ = makeLabel("", "second");
    chosenText_->setWordWrap(true);
    side_->addWidget(chosenText_);
    reason_ = makeField("settleReason", "Why");
    reason_->setPlaceholderText("what showed it");
    addRow(side_, "Why", reason_);
    asOne_ = makeButton("As the one says", "settleAsOne");
    asTwo_ = makeButton("As the other says", "settleAsTwo");
    kind_ = makeChoice("settleKind", "As this kind", {});
    asKind_ = makeButton("As this kind", "settleAsKind");
    side_->addWidget(asOne_);
    side_->addWidget(asTwo_);
    addRow(side_, "Or as", kind_);
    side_->addWidget(asKind_);
    side_->addStretch();
    connect(asOne_, &QPushButton::clicked, this, [this] {
        if (const auto d = chosenDifference())
            kind_->setCurrentIndex(std::max(0, kind_->findText(said(d->one)))), settle();
    });
    connect(asTwo_, &QPushButton::clicked, this, [this] {
        if (const auto d = chosenDifference())
            kind_->setCurrentIndex(std::max(0, kind_->findText(said(d->two)))), settle();
    });
    connect(asKind_, &QPushButton::clicked, this, &AgreementPage::settle);
}

void AgreementPage::fillPeople() {
    const std::vector<std::string> people = whoLabelled(session_.study());
    int second = 1;
    for (QComboBox* box : {one_, two_}) {
        const QString before = box->currentText();
        box->clear();
        for (const std::string& name : people) box->addItem(QString::fromStdString(name));
        const int at = box->findText(before);
        if (at >= 0 && !before.isEmpty())
            box->setCurrentIndex(at);
        else if (box == two_ && box->count() > 1)
            box->setCurrentIndex(second);
    }
}

void AgreementPage::fillKinds() {
    const QString before = kind_->currentText();
    kind_->clear();
    kind_->addItem(kNothing);
    for (const LabelKind& k : session_.study().judgement().labelBook())
        kind_->addItem(swatchIcon(onGround(session_.theme(), QString::fromStdString(k.colour))),
                       QString::fromStdString(k.name));
    kind_->setCurrentIndex(std::max(0, kind_->findText(before)));
}

void AgreementPage::refresh() {
    fillPeople();
    fillKinds();
    made_.reset();
    const std::string one = one_->currentText().toStdString(), two = two_->currentText().toStdString();
    if (one_->count() < 2 || one == two) {
        view_->say(
            one_->count() < 2
                ? "Two people's labels are compared here. So far there are those of one alone, or none: each "
                  "label carries the name that its author has in the Preferences."
                : "Choose two people.");
        figures_->clear();
        model_->setRows({});
        state_.clear();
        choose(-1);
        return;
    }
    const TimeRange over = scope_->currentIndex() == 1 ? session_.view().view() : TimeRange{};
    auto made = agreementBetween(session_.study(), one, two, {}, over);
    if (!session_.report(made)) return;
    made_ = std::move(*made);
    std::vector<Span> ofOne, ofTwo;
    for (const Span& s : labelsOf(session_.study())) {
        const std::string by = factText(s.facts, label_fact::kBy);
        if (by == one) ofOne.push_back(s);
        if (by == two) ofTwo.push_back(s);
    }
    view_->show(one_->currentText(), two_->currentText(), std::move(ofOne), std::move(ofTwo),
                made_->differences);
    const auto hours = [](Duration d) { return QString::fromStdString(sayDuration(d)); };
    showFigures(
        figures_,
        {{"Cohen's kappa", std::isfinite(made_->kappa) ? QString::number(made_->kappa, 'f', 3) : "none"},
         {"agreed", QString("%1 %").arg(100 * made_->observed, 0, 'f', 2)},
         {"by chance", QString("%1 %").arg(100 * made_->byChance, 0, 'f', 2)},
         {"labelled by both", hours(made_->both)},
         {one_->currentText() + " alone", hours(made_->one)},
         {two_->currentText() + " alone", hours(made_->two)}},
        "Over time: every moment of the assets that either labelled counts alike.");
    state_ = made_->differences.empty() ? "they agree everywhere"
                                        : QString("%1 differences").arg(made_->differences.size());
    fillList();
    emit titleChanged();
    choose(made_->differences.empty()
               ? -1
               : std::clamp<int>(chosen_, 0, static_cast<int>(made_->differences.size()) - 1));
}

void AgreementPage::fillList() {
    std::vector<RowsModel::Row> rows;
    for (const Difference& d : made_->differences) {
        const Asset* asset = session_.study().catalog().asset(d.asset);
        RowsModel::Row row{static_cast<std::int64_t>(rows.size()) + 1,
                           {asset ? QString::fromStdString(asset->name) : "",
                            QString::fromStdString(session_.zone().shortText(d.range.from)),
                            QString::fromStdString(sayDuration(d.range.length())), said(d.one), said(d.two)}};
        row.sortBy(1, d.range.from);
        row.sortBy(2, d.range.length());
        rows.push_back(std::move(row));
    }
    const QSignalBlocker quiet(list_->selectionModel());
    model_->setRows(std::move(rows));
}

std::optional<Difference> AgreementPage::chosenDifference() const {
    if (!made_ || chosen_ < 0 || chosen_ >= std::ssize(made_->differences)) return {};
    return made_->differences[static_cast<std::size_t>(chosen_)];
}

void AgreementPage::choose(int difference) {
    chosen_ = difference;
    view_->choose(difference);
    const auto d = chosenDifference();
    for (QWidget* w : std::initializer_list<QWidget*>{reason_, asOne_, asTwo_, kind_, asKind_})
        w->setEnabled(d.has_value());
    if (!d) return chosenText_->setText("none chosen");
    // Where somebody's labels overlap they say several kinds at once: only one can be settled on.
    asOne_->setEnabled(kind_->findText(said(d->one)) >= 0);
    asTwo_->setEnabled(kind_->findText(said(d->two)) >= 0);
    chosenText_->setText(
        QString("%1: %2. %3: %4.").arg(one_->currentText(), said(d->one), two_->currentText(), said(d->two)));
    if (const int row = model_->rowOf(difference + 1); row >= 0 && list_->currentIndex().row() != row) {
        const QSignalBlocker quiet(list_->selectionModel());
        list_->selectRow(row);
        list_->viewport()->update();
    }
    const TimeRange view = session_.view().view();
    if (d->range.to < view.from || d->range.from > view.to) session_.view().goTo(d->range.from, d->range.to);
}

void AgreementPage::settle() {
    const auto d = chosenDifference();
    if (!d) return;
    const std::string reason = reason_->text().trimmed().toStdString();
    markWrong(reason_, reason.empty(), "say why it is so");
    if (reason.empty()) return reason_->setFocus();
    const std::string kind = kind_->currentIndex() <= 0 ? std::string() : kind_->currentText().toStdString();
    session_.tryChange([&] {
        session_.report(settleDifference(session_.study(), *d, one_->currentText().toStdString(),
                                         two_->currentText().toStdString(), {kind, reason}));
    });
}

}  // namespace jacinth::app
