#include "app/base/label_menu.h"

#include "app/base/swatch.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {
namespace {

void labelThese(Session& session, const std::vector<Span>& spans, const std::string& kind,
                const std::string& from) {
    Result<LabelledSpans> done = Error{""};
    if (!session.tryChange([&] { done = labelSpans(session.study(), spans, kind, from); })) return;
    if (!session.report(done)) return;
    QString said = QString("%1 %2 %3")
                       .arg(done->added.size())
                       .arg(done->added.size() == 1 ? "label" : "labels",
                            kind.empty() ? "not named yet" : QString::fromStdString(kind));
    if (done->known) said += QString(", %1 stood there already").arg(done->known);
    if (done->outside) said += QString(", %1 outside the record left out").arg(done->outside);
    if (done->moments) said += QString(", %1 moments without length left out").arg(done->moments);
    emit session.notified(said);
}

}  // namespace

void addLabelMenu(QMenu& menu, const QString& title, Session& session,
                  std::function<std::vector<Span>()> spans, const QString& from) {
    QMenu* kinds = menu.addMenu(title);
    kinds->setObjectName("labelMenu");
    const auto add = [&](const QString& words, const std::string& kind) {
        return kinds->addAction(words, &session, [&session, spans, kind, from = from.toStdString()] {
            labelThese(session, spans(), kind, from);
        });
    };
    for (const LabelKind& kind : session.study().judgement().labelBook())
        add(QString::fromStdString(kind.name).replace("&", "&&"), kind.name)
            ->setIcon(swatchIcon(onGround(session.theme(), QString::fromStdString(kind.colour))));
    kinds->addSeparator();
    add("Not named yet", {});
}

void openLabelMenu(QWidget* on, Session& session, const std::vector<Span>& spans, const QString& from) {
    QMenu menu(on);
    menu.setObjectName("labelAsMenu");
    addLabelMenu(
        menu, "Label as", session, [spans] { return spans; }, from);
    // The kinds themselves, without the step in between.
    if (QMenu* kinds = menu.findChild<QMenu*>("labelMenu")) kinds->exec(QCursor::pos());
}

void addLabelCommand(QTableView* table, const QString& words, Session& session,
                     std::function<std::vector<Span>()> spans, const QString& from) {
    addRowCommand(table, words, [table, &session, spans = std::move(spans), from] {
        openLabelMenu(table, session, spans(), from);
    });
}

}  // namespace jacinth::app
