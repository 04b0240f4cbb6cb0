#include "app/label/label_bench.h"

#include "app/label/book_dialog.h"
#include "store/tracks.h"
#include "work/label/labels.h"

namespace jacinth::app {

QStringList LabelBench::pages() {
    return {"Marks", "More like this", "Overview", "Agreement"};
}

LabelBench::LabelBench(Session& session) : PagedBench(session) {
    addPage("labelMarks", pages()[0], [this] {
        auto* made = new MarksPage(session_);
        connect(made, &MarksPage::bookAsked, this, &LabelBench::editBook);
        connect(made, &MarksPage::alikeAsked, this, &LabelBench::searchLike);
        return made;
    });
    addPage("labelAlike", pages()[1], [this] {
        auto* made = new AlikePage(session_);
        connect(made, &AlikePage::tracesAsked, this, [this] { turnTo(LabelWay::Marks); });
        return made;
    });
    addPage("labelOverview", pages()[2], [this] {
        auto* made = new OverviewPage(session_);
        connect(made, &OverviewPage::tracesAsked, this, [this] { turnTo(LabelWay::Marks); });
        connect(made, &OverviewPage::markAsked, this, &LabelBench::openSpan);
        return made;
    });
    addPage("labelAgreement", pages()[3], [this] { return new AgreementPage(session_); });
    auto* time = new TimeField(session);
    time->setMaximumWidth(240);
    addToRow(time);
}

void LabelBench::editBook() {
    BookDialog(session_, window()).exec();
}

void LabelBench::searchLike(SpanId label) {
    turnTo(LabelWay::Alike);
    alike()->startFrom(label);
}

void LabelBench::openSpan(SpanId label) {
    turnTo(LabelWay::Marks);
    marks()->open(label);
}

void LabelBench::mark(TimeRange range, AssetId asset) {
    turnTo(LabelWay::Marks);
    marks()->mark({{}, asset, {}, range.from, range.to, {}});
}

void LabelBench::markExcursion(SpanId id) {
    const auto span = session_.study().tracks().span(id);
    if (!span) return;
    session_.lookAt(span->asset, span->tag);
    session_.view().goTo(span->start, span->end);
    const Tag* tag = session_.tag(span->tag);
    const QString note = QString("outside golden limits in %1, severity %2")
                             .arg(tag ? QString::fromStdString(tag->name) : "",
                                  QString::number(factNumber(span->facts, "severity")));
    turnTo(LabelWay::Marks);
    marks()->mark({{},
                   span->asset,
                   span->tag,
                   span->start,
                   span->end,
                   {{label_fact::kNote, note.toStdString()},
                    {label_fact::kFrom, "Excursions"},
                    {label_fact::kFromSpan, static_cast<double>(id.number)}}});
}

}  // namespace jacinth::app
