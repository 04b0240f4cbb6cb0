// The questions for a file or a folder, asked in one way everywhere: they begin in the study's folder,
// propose a name, ask before a file is replaced, and know files by their names alone. A dialog that looked
// into the files of a folder to find out their types would open the study itself.
#pragma once

#include <QStringList>

class QWidget;

namespace jacinth::app {

/// What is to be saved.
struct SaveQuestion {
    QString title;
    QString
        name;  ///< of the file, proposed; where it begins with a blank the study's own name stands before it
    QString filter;  ///< as for QFileDialog; the ending of the chosen filter is appended where none is typed
    bool confirmReplacing = true;  ///< off where what saves refuses to replace a file
};

/// The path that the user chose; empty where the dialog was left.
QString askFileToOpen(QWidget* parent, const QString& title, const QString& filter);
QStringList askFilesToOpen(QWidget* parent, const QString& title, const QString& filter);
QString askFolder(QWidget* parent, const QString& title);
QString askFileToSave(QWidget* parent, const SaveQuestion& question);

}  // namespace jacinth::app
