#include "app/survey/cycles_page.h"

#include "app/base/tables.h"
#include "store/tracks.h"

namespace jacinth::app {
namespace {
const std::array<const char*, 4> kKinds{track_kind::kStops, track_kind::kWorkOrders, track_kind::kFailures,
                                        track_kind::kLabels};
}

CyclesPage::CyclesPage(Session& session) : BenchPage(session) {
    setObjectName("Cycles");
    view_ = new CyclesView(session);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(view_, 1);

    side_->addWidget(makeLabel("Between", "section"));
    kind_ = makeChoice("cyclesKind", "Between", {"stops", "work orders", "failures", "labels"});
    words_ = makeField("cyclesWords", "That say");
    words_->setPlaceholderText("any, or like belt");
    every_ = makeChoice("cyclesEvery", "One figure each", {"6h", "12h", "1d", "2d", "7d"});
    every_->setEditable(true);
    every_->setCurrentText("1d");
    only_ = new ExpressionEditor(session_, ExpressionEditor::Lines::One);
    only_->setObjectName("cyclesOnly");
    only_->setAccessibleName("Only while");
    only_->setPlaceholderText("always, or a condition");
    addRow(side_, "between", kind_);
    addRow(side_, "that say", words_);
    addRow(side_, "one figure each", every_);
    addRow(side_, "only while", only_);
    auto* preview = new ExpressionPreview(session_);
    preview->hide();
    side_->addWidget(preview);
    connect(only_, &QPlainTextEdit::textChanged, this, [this, preview] {
        preview->setVisible(!only_->text().isEmpty());
        preview->setText(only_->text());
    });
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Do they share a slope?", "section"));
    says_ = makeLabel("");
    says_->setObjectName("cyclesSays");
    says_->setWordWrap(true);
    says_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    side_->addWidget(says_);
    model_ = new RowsModel({"cycle from", "days", "a day"}, this);
    table_ = makeTable(model_, "cyclesTable", {0, 48, 92});
    side_->addWidget(table_, 1);
    addCopyButton(side_);

    connect(kind_, &QComboBox::currentIndexChanged, this, &CyclesPage::refreshSoon);
    connect(every_, &QComboBox::currentTextChanged, this, &CyclesPage::refreshSoon);
    connect(words_, &QLineEdit::editingFinished, this, &CyclesPage::refreshSoon);
    connect(only_, &ExpressionEditor::editingFinished, this, &CyclesPage::refreshSoon);
    connect(view_, &CyclesView::pointed, this, &BenchPage::pointerMoved);
    connect(view_, &CyclesView::chosen, this,
            [this](int c) { c < 0 ? table_->clearSelection() : table_->selectRow(c); });
    connect(view_, &CyclesView::opened, this, [this](Instant at) {
        session_.view().setCursor(0, at);
        session_.view().goTo(at - 12 * kHour, at + 12 * kHour);
        emit tracesAsked();
    });
    connect(table_, &QTableView::clicked, this, [this](const QModelIndex& i) {
        view_->choose(static_cast<int>(i.data(Qt::UserRole).toLongLong()));
    });
}

QString CyclesPage::title() const {
    const Tag* tag = numberTag();
    return tag ? QString("%1 between %2%3")
                     .arg(QString::fromStdString(tag->path()).replace("/", " · "), kind_->currentText(),
                          words_->text().trimmed().isEmpty() ? ""
                                                             : " that say “" + words_->text().trimmed() + "”")
               : "Cycles";
}

void CyclesPage::refresh() {
    emit titleChanged();
    const Tag* tag = numberTag();
    if (!tag) return say("Choose a tag with numbers in the plant panel.");
    CycleSpec spec;
    spec.asset = tag->asset;
    spec.tag = tag->id;
    spec.kind = kKinds[static_cast<std::size_t>(kind_->currentIndex())];
    spec.words = words_->text().trimmed().toStdString();
    spec.only = only_->text().toStdString();
    spec.which = session_.view().which();
    const auto every = periodNamed(every_->currentText().trimmed().toStdString());
    markWrong(every_->lineEdit(), !every || every->unit != Period::Unit::Length,
              "write a length like 12h or 1d");
    if (!every || every->unit != Period::Unit::Length) return;
    spec.every = *every;
    session_.runJob(
        this, "cycles", "Lining up cycles", [this, spec](JobContext& job) -> std::function<void()> {
            auto result = std::make_shared<Result<CyclePicture>>(cyclesOf(job.study, spec, job.progress));
            return [this, result, conditional = !spec.only.empty()] {
                (void)only_->checked();
                if (!*result && conditional) only_->showError(result->error());
                if (!*result) return say(QString::fromStdString(result->error().message));
                show(std::make_shared<const CyclePicture>(std::move(**result)));
            };
        });
}

void CyclesPage::say(const QString& instead) {
    picture_.reset();
    says_->setText(instead);
    model_->setRows({});
    view_->say(instead);
}

void CyclesPage::show(std::shared_ptr<const CyclePicture> picture) {
    picture_ = std::move(picture);
    view_->show(picture_);
    says_->setText(QString::fromStdString(picture_->says));
    std::vector<RowsModel::Row> rows;
    for (std::size_t i = 0; i < picture_->cycles.size(); ++i) {
        const Cycle& c = picture_->cycles[i];
        const bool line = picture_->slopes && picture_->slopes->own[i].n > 0;
        RowsModel::Row row{static_cast<std::int64_t>(i),
                           {QString::fromStdString(session_.zone().shortText(c.range.from)),
                            QString::number(toHours(c.range.length()) / 24, 'f', 1),
                            line ? valueText(picture_->slopes->own[i].slope, {}, true) + " ± " +
                                       QString::number(picture_->slopes->own[i].slopeError, 'g', 2)
                                 : "–"}};
        row.swatch = view_->colourOf(i);
        row.sortBy(0, c.range.from);
        row.number(1, toHours(c.range.length()) / 24);
        if (line) row.number(2, picture_->slopes->own[i].slope);
        rows.push_back(std::move(row));
    }
    model_->setRows(std::move(rows));
}

QString CyclesPage::figures() const {
    QString out = "cycle\ttime\tdays since the stop\tvalue\n";
    if (!picture_) return out;
    for (std::size_t c = 0; c < picture_->cycles.size(); ++c) {
        const Cycle& cycle = picture_->cycles[c];
        for (std::size_t i = 0; i < cycle.days.x.size(); ++i)
            out += QString("%1\t%2\t%3\t%4\n")
                       .arg(QString::number(c + 1), QString::fromStdString(toIso(cycle.at[i])),
                            fullNumber(cycle.days.x[i]), fullNumber(cycle.days.y[i]));
    }
    return out;
}

}  // namespace jacinth::app
