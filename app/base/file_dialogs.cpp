#include "app/base/file_dialogs.h"

#include <QAbstractFileIconProvider>
#include <QApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QRegularExpression>
#include <QStyle>

namespace jacinth::app {
namespace {

/// Icons and types by what the folder says of a file, never by what is in it.
class IconsByName : public QAbstractFileIconProvider {
  public:
    IconsByName() { setOptions(DontUseCustomDirectoryIcons); }
    QIcon icon(IconType type) const override {
        const bool folder = type == Folder || type == Drive || type == Computer || type == Network;
        return folder ? folder_ : file_;
    }
    QIcon icon(const QFileInfo& info) const override { return info.isDir() ? folder_ : file_; }
    QString type(const QFileInfo& info) const override {
        if (info.isDir()) return "Folder";
        const QString ending = info.suffix().toLower();
        if (ending == "jacinth") return "Study";
        return ending.isEmpty() ? "File" : ending.toUpper() + " file";
    }

  private:
    QIcon folder_ = QApplication::style()->standardIcon(QStyle::SP_DirIcon);
    QIcon file_ = QApplication::style()->standardIcon(QStyle::SP_FileIcon);
};

/// The path of the study whose window this is (see QWidget::windowFilePath).
QString studyOf(const QWidget* widget) {
    for (; widget; widget = widget->parentWidget())
        if (widget->isWindow() && !widget->windowFilePath().isEmpty()) return widget->windowFilePath();
    return {};
}

QString endingOf(const QString& filter) {
    static const QRegularExpression first("\\*\\.([A-Za-z0-9]+)");
    return first.match(filter).captured(1);
}

class Question {
  public:
    Question(QWidget* parent, const QString& title, const QString& filter) : dialog_(parent) {
        dialog_.setOption(QFileDialog::DontUseNativeDialog);
        dialog_.setIconProvider(&icons_);
        dialog_.setWindowTitle(title);
        const QString study = studyOf(parent);
        dialog_.setDirectory(study.isEmpty() ? QDir::current() : QFileInfo(study).absoluteDir());
        if (!filter.isEmpty()) dialog_.setNameFilters(filter.split(";;"));
    }
    QFileDialog* operator->() { return &dialog_; }
    QStringList ask() {
        return dialog_.exec() == QDialog::Accepted ? dialog_.selectedFiles() : QStringList();
    }

  private:
    IconsByName icons_;  // outlives the dialog, which uses it
    QFileDialog dialog_;
};

}  // namespace

QString askFileToOpen(QWidget* parent, const QString& title, const QString& filter) {
    Question question(parent, title, filter);
    question->setFileMode(QFileDialog::ExistingFile);
    return question.ask().value(0);
}

QStringList askFilesToOpen(QWidget* parent, const QString& title, const QString& filter) {
    Question question(parent, title, filter);
    question->setFileMode(QFileDialog::ExistingFiles);
    return question.ask();
}

QString askFolder(QWidget* parent, const QString& title) {
    Question question(parent, title, {});
    question->setFileMode(QFileDialog::Directory);
    question->setOption(QFileDialog::ShowDirsOnly);
    return question.ask().value(0);
}

QString askFileToSave(QWidget* parent, const SaveQuestion& asked) {
    Question question(parent, asked.title, asked.filter);
    question->setAcceptMode(QFileDialog::AcceptSave);
    question->setFileMode(QFileDialog::AnyFile);
    question->setOption(QFileDialog::DontConfirmOverwrite, !asked.confirmReplacing);
    // The dialog appends the ending itself, so that its question is about the file that will be written.
    question->setDefaultSuffix(endingOf(asked.filter));
    QObject::connect(question.operator->(), &QFileDialog::filterSelected, question.operator->(),
                     [&](const QString& filter) { question->setDefaultSuffix(endingOf(filter)); });
    const QString study = QFileInfo(studyOf(parent)).completeBaseName();
    question->selectFile(asked.name.startsWith(' ') ? (study + asked.name).trimmed() : asked.name);
    return question.ask().value(0);
}

}  // namespace jacinth::app
