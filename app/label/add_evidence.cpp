#include "app/label/add_evidence.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QFileInfo>
#include <QVBoxLayout>

#include "app/base/file_dialogs.h"
#include "app/base/time_field.h"
#include "app/base/ui.h"
#include "work/label/evidence_files.h"

namespace jacinth::app {
namespace {

QString askForPath(QWidget* parent, EvidenceKind kind) {
    if (kind == EvidenceKind::Frames)
        return askFolder(parent, "A folder of pictures with times in their names");
    if (kind == EvidenceKind::Picture)
        return askFileToOpen(parent, "A picture", "Pictures (*.png *.jpg *.jpeg *.bmp *.webp)");
    return askFileToOpen(parent, "A video",
                         "Videos (*.mp4 *.m4v *.mov *.avi *.mkv *.webm *.mpg *.mpeg *.wmv);;All files (*)");
}

/// When it was taken, where its name does not tell; the time of the file is proposed.
std::optional<Instant> askForMoment(QWidget* parent, Session& session, EvidenceKind kind,
                                    const QFileInfo& file) {
    QDialog dialog(parent);
    dialog.setWindowTitle("When was it taken?");
    auto* words = makeLabel(QString("The name %1 tells no time. %2")
                                .arg(file.fileName(), kind == EvidenceKind::Video
                                                          ? "When does the video begin, by its own clock?"
                                                          : "When was the picture taken?"));
    words->setWordWrap(true);
    auto* field = new MomentField(session, "evidenceBegins", "Taken at");
    field->setMoment(Instant(std::chrono::milliseconds(file.lastModified().toMSecsSinceEpoch())));
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    auto* column = new QVBoxLayout(&dialog);
    column->addWidget(words);
    column->addWidget(field);
    column->addWidget(buttons);
    const auto check = [&] {
        buttons->button(QDialogButtonBox::Ok)->setEnabled(field->moment().has_value());
    };
    QObject::connect(field, &QLineEdit::textChanged, &dialog, check);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    check();
    dialog.resize(420, dialog.sizeHint().height());
    return dialog.exec() == QDialog::Accepted ? field->moment() : std::nullopt;
}

}  // namespace

std::optional<EvidenceSource> askForEvidence(QWidget* parent, Session& session, EvidenceKind kind) {
    const QString path = askForPath(parent, kind);
    if (path.isEmpty()) return {};
    const QFileInfo file(path);
    EvidenceSource source;
    source.kind = kind;
    const QString name = kind == EvidenceKind::Frames ? file.fileName() : file.completeBaseName();
    source.name = freeEvidenceName(session.study(), name.toStdString());
    source.path = evidencePathFor(session.study(), path.toStdString());
    if (kind != EvidenceKind::Frames) {
        auto taken = timeInName(file.fileName().toStdString(), session.zone());
        if (!taken) taken = askForMoment(parent, session, kind, file);
        if (!taken) return {};
        source.begins = *taken;
    }
    if (!session.report(checkEvidence(session.study(), source))) return {};
    return source;
}

}  // namespace jacinth::app
