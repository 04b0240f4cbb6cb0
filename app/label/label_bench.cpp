#include "app/label/label_bench.h"

#include <QKeyEvent>

#include "app/base/tables.h"
#include "app/plot/tag_trace.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/labels.h"
#include "work/limits/screening.h"

namespace jacinth::app {
namespace {
QColor colourOf(const Session& session, const LabelBook& book, const std::string& kind) {
    const LabelKind* known = findKind(book, kind);
    return known ? QColor(QString::fromStdString(known->colour)) : session.theme().second;
}
}  // namespace

LabelBench::LabelBench(Session& session) : Bench(session) {
    title_ = makeLabel("", "title");
    plot_ = new TimePlot(session);
    plot_->setObjectName("labelPlot");
    plot_->setAccessibleName("Traces with marks");
    plot_->setDragMarks(true);
    plot_->setEmptyText(
        "No traces are shown. Choose a tag in the plant panel and press Space, then drag over its trace to "
        "mark a stretch.");
    plot_->installEventFilter(this);
    model_ = new RowsModel({"kind", "asset", "tag", "from", "length", "note", "by"}, this);
    list_ = makeTable(model_, "labelTable", {120, 60, 96, 100, 86, 0, 76});
    list_->setFixedHeight(160);
    list_->installEventFilter(this);
    state_ = makeLabel("", "second");
    auto* head = new QHBoxLayout;
    head->addWidget(makeLabel("Labels", "section"));
    head->addStretch();
    head->addWidget(state_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 8, 4);
    column->setSpacing(6);
    column->addLayout(makeTitleRow(title_, session));
    column->addWidget(plot_, 1);
    column->addLayout(head);
    column->addWidget(list_);
    buildInspector();
    connect(plot_, &TimePlot::marked, this, [this](TimeRange r) {
        const TagId tag = session_.view().tag();
        const TimeRange edges{edgeAt(session_, *plot_, tag, r.from), edgeAt(session_, *plot_, tag, r.to)};
        addMark(edges.to > edges.from ? edges : r, session_.view().asset(), {}, {});
    });
    connect(plot_, &TimePlot::markClicked, this, &LabelBench::choose);
    connect(plot_, &TimePlot::handleMoved, this, [this](int id, Instant t, double) { moveEdge(id, t); });
    connect(plot_, &TimePlot::handleDropped, this, &LabelBench::commitEdges);
    connect(plot_, &TimePlot::pointed, this, &Bench::pointerMoved);
    connect(list_, &QTableView::clicked, this, [this] { openSpan(currentId<SpanId>(list_)); });
    connect(&session, &Session::studyChanged, this, [this] {
        rebuildPanes();
        refresh();
    });
    connect(&session, &Session::themeChanged, this, [this] {
        rebuildPanes();
        refresh();
    });
    connect(&session.view(), &ViewState::shownChanged, this, &LabelBench::rebuildPanes);
    connect(&session.view(), &ViewState::selectionChanged, this, &LabelBench::refresh);
    rebuildPanes();
    refresh();
}

void LabelBench::buildInspector() {
    auto* side = new QVBoxLayout(inspector_);
    side->setContentsMargins(12, 10, 12, 10);
    side->setSpacing(6);
    side->addWidget(makeLabel("Label book", "section"));
    auto* hint = makeLabel("Drag over the traces to mark a stretch, then press the kind's key.", "second");
    hint->setWordWrap(true);
    side->addWidget(hint);
    bookModel_ = new RowsModel({"kind", "key", "meaning"}, this);
    book_ = makeTable(bookModel_, "labelBook", {128, 26, 0});
    book_->setFixedHeight(24 + 21 * 6);
    side->addWidget(book_);
    side->addWidget(makeRule());
    chosenTitle_ = makeLabel("No mark chosen", "section");
    side->addWidget(chosenTitle_);
    from_ = new MomentField(session_, "labelFrom", "From");
    to_ = new MomentField(session_, "labelTo", "To");
    note_ = makeField("labelNote", "Note");
    addRow(side, "From", from_);
    addRow(side, "To", to_);
    addRow(side, "Note", note_);
    remove_ = makeButton("Remove this mark", "removeLabel");
    side->addWidget(remove_);
    side->addStretch();
    connect(book_, &QTableView::clicked, this, [this](const QModelIndex& i) {
        const LabelBook book = session_.study().judgement().labelBook();
        if (i.row() < static_cast<int>(book.size())) name(book[static_cast<std::size_t>(i.row())].name);
    });
    connect(remove_, &QPushButton::clicked, this, &LabelBench::removeChosen);
    addRowCommand(list_, "Go to this mark", [this] { openSpan(currentId<SpanId>(list_)); });
    addRowCommand(list_, "Remove this mark", [this] {
        choose(currentId<SpanId>(list_));
        removeChosen();
    });
    for (QLineEdit* f : {static_cast<QLineEdit*>(from_), static_cast<QLineEdit*>(to_), note_})
        connect(f, &QLineEdit::editingFinished, this, &LabelBench::readFields);
}

void LabelBench::entered() {
    plot_->setFocus();
}

QString LabelBench::pointerText() const {
    return plot_->pointer() ? QString::fromStdString(session_.zone().preciseText(*plot_->pointer()))
                            : QString();
}

void LabelBench::rebuildPanes() {
    plot_->setPanes(panesOfShown(session_));
}

std::optional<Span> LabelBench::chosenSpan() const {
    return chosen_ ? session_.study().tracks().span(chosen_) : std::nullopt;
}

void LabelBench::refresh() {
    const Study& study = session_.study();
    const LabelBook book = study.judgement().labelBook();
    const Asset* asset = study.catalog().asset(session_.view().asset());
    title_->setText(asset ? "Labels on " + QString::fromStdString(asset->name) : "Labels");
    std::vector<RowsModel::Row> bookRows, rows;
    for (const LabelKind& k : book) {
        RowsModel::Row row{
            static_cast<std::int64_t>(bookRows.size()) + 1,
            {QString::fromStdString(k.name), QString(QChar(k.key)), QString::fromStdString(k.meaning)}};
        row.swatch = QColor(QString::fromStdString(k.colour));
        bookRows.push_back(std::move(row));
    }
    bookModel_->setRows(std::move(bookRows));
    if (!chosenSpan()) chosen_ = {};
    int unnamed = 0;
    const auto all = study.tracks().spansOf(track_kind::kLabels);
    for (const Span& s : all) {
        const std::string kind = factText(s.facts, "kind");
        unnamed += kind.empty();
        const Asset* a = study.catalog().asset(s.asset);
        const Tag* t = session_.tag(s.tag);
        RowsModel::Row row{
            s.id,
            {kind.empty() ? "not named yet" : QString::fromStdString(kind),
             a ? QString::fromStdString(a->name) : "", t ? QString::fromStdString(t->name) : "all",
             QString::fromStdString(session_.zone().shortText(s.start)),
             QString::fromStdString(sayDuration(s.end - s.start)),
             QString::fromStdString(factText(s.facts, "note")),
             QString::fromStdString(factText(s.facts, "by"))}};
        row.swatch = colourOf(session_, book, kind);
        row.sortBy(3, s.start);
        row.sortBy(4, s.end - s.start);
        rows.push_back(std::move(row));
    }
    state_->setText(all.empty() ? "none yet: drag over the traces"
                                : QString("%1 %2%3")
                                      .arg(all.size())
                                      .arg(all.size() == 1 ? "mark" : "marks",
                                           unnamed ? QString(", %1 not named yet").arg(unnamed) : QString()));
    model_->setRows(std::move(rows));
    showChosen();
}

void LabelBench::showChosen() {
    const LabelBook book = session_.study().judgement().labelBook();
    const auto span = moving_ ? moving_ : chosenSpan();
    std::vector<SpanMark> marks;
    for (const Span& s : session_.study().tracks().spansOf(track_kind::kLabels)) {
        if (s.asset != session_.view().asset()) continue;
        const bool strong = s.id == chosen_;
        const std::string kind = factText(s.facts, "kind");
        marks.push_back({strong && span ? span->range() : s.range(), colourOf(session_, book, kind),
                         kind.empty() ? "not named yet" : QString::fromStdString(kind), strong, s.id});
    }
    plot_->setMarks(std::move(marks));
    std::vector<Handle> handles;
    if (span && span->asset == session_.view().asset()) {
        handles.push_back({0, span->start, 0, {}, {}});
        handles.push_back({1, span->end, 0, {}, {}});
    }
    plot_->setHandles(std::move(handles));
    for (QWidget* w : {static_cast<QWidget*>(from_), static_cast<QWidget*>(to_), static_cast<QWidget*>(note_),
                       static_cast<QWidget*>(remove_)})
        w->setEnabled(span.has_value());
    if (!span) {
        chosenTitle_->setText("No mark chosen");
        for (QLineEdit* f : {static_cast<QLineEdit*>(from_), static_cast<QLineEdit*>(to_), note_}) f->clear();
        return;
    }
    const std::string kind = factText(span->facts, "kind");
    chosenTitle_->setText(
        QString("%1 · %2").arg(kind.empty() ? "Mark not named yet" : QString::fromStdString(kind),
                               QString::fromStdString(sayDuration(span->end - span->start))));
    from_->setMoment(span->start);
    to_->setMoment(span->end);
    note_->setText(QString::fromStdString(factText(span->facts, "note")));
    list_->selectRow(model_->rowOf(span->id));
}

void LabelBench::choose(SpanId id) {
    chosen_ = id;
    moving_.reset();
    showChosen();
}

void LabelBench::openSpan(SpanId id) {
    const auto span = session_.study().tracks().span(id);
    if (!span) return;
    chosen_ = id;
    session_.lookAt(span->asset, span->tag);
    const TimeRange view = session_.view().view();
    if (span->start < view.from || span->end > view.to) session_.view().goTo(span->start, span->end);
    showChosen();
}

void LabelBench::mark(TimeRange range, AssetId asset, TagId tag, const QString& note) {
    range.from = std::chrono::floor<std::chrono::seconds>(range.from);
    range.to = std::chrono::floor<std::chrono::seconds>(range.to);
    addMark(range, asset, tag, note);
}

void LabelBench::addMark(TimeRange range, AssetId asset, TagId tag, const QString& note) {
    session_.tryChange([&] {
        const auto id = addLabelled(session_.study(), Span{{}, asset, tag, range.from, range.to, {}}, "",
                                    note.toStdString());
        if (session_.report(id)) chosen_ = *id;
    });
    plot_->setFocus();
}

void LabelBench::markExcursion(SpanId id) {
    const auto span = session_.study().tracks().span(id);
    if (!span) return;
    session_.lookAt(span->asset, span->tag);
    session_.view().goTo(span->start, span->end);
    const Tag* tag = session_.tag(span->tag);
    mark(span->range(), span->asset, span->tag,
         QString("outside golden limits in %1, severity %2")
             .arg(tag ? QString::fromStdString(tag->name) : "",
                  QString::number(factNumber(span->facts, "severity"))));
}

void LabelBench::name(const std::string& kind) {
    auto span = chosenSpan();
    if (!span) {
        emit session_.failed("Choose a mark first: drag over the traces, or click one.");
        return;
    }
    span->facts["kind"] = kind;
    session_.tryChange([&] { session_.report(changeLabel(session_.study(), *span, "name label " + kind)); });
}

void LabelBench::moveEdge(int id, Instant t) {
    if (!moving_) moving_ = chosenSpan();
    if (!moving_) return;
    const Instant at = edgeAt(session_, *plot_, session_.view().tag(), t);
    if (id == 0 && at < moving_->end) moving_->start = at;
    if (id == 1 && at > moving_->start) moving_->end = at;
    showChosen();
}

void LabelBench::commitEdges() {
    if (!moving_) return;
    const Span moved = *moving_;
    moving_.reset();
    session_.tryChange([&] { session_.report(changeLabel(session_.study(), moved, "move label")); });
}

void LabelBench::removeChosen() {
    if (chosen_) session_.tryChange([&] { session_.report(removeLabel(session_.study(), chosen_)); });
}

void LabelBench::readFields() {
    auto span = chosenSpan();
    if (!span) return;
    const auto from = from_->moment(), to = to_->moment();
    markWrong(from_, !from, "no time");
    markWrong(to_, !to || (from && *to <= *from), "the end lies before the start");
    if (!from || !to || *to <= *from) return;
    Span changed = *span;
    if (from_->isModified()) changed.start = *from;
    if (to_->isModified()) changed.end = *to;
    if (note_->text().isEmpty())
        changed.facts.erase("note");
    else
        changed.facts["note"] = note_->text().toStdString();
    if (changed.start == span->start && changed.end == span->end && changed.facts == span->facts) return;
    session_.tryChange([&] { session_.report(changeLabel(session_.study(), changed, "edit label")); });
}

bool LabelBench::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::KeyPress) {
        auto* key = static_cast<QKeyEvent*>(e);
        if (key->key() == Qt::Key_Delete && chosen_) {
            removeChosen();
            return true;
        }
        if (!(key->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::ShiftModifier)) &&
            key->text().size() == 1) {
            for (const LabelKind& k : session_.study().judgement().labelBook())
                if (k.key && key->text() == QString(QChar(k.key)) && chosen_) {
                    name(k.name);
                    return true;
                }
        }
    }
    return Bench::eventFilter(watched, e);
}

}  // namespace jacinth::app
