// Import with a preview: what each file is and becomes, its first rows and its first bad ones, before
// anything is stored.
#pragma once

#include <QDialog>
#include <QTabWidget>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/ui.h"
#include "source/import_events.h"

namespace jacinth::app {

class ImportDialog : public QDialog {
    Q_OBJECT
  public:
    /// Files, and folders of them. Those with one and the same header are laid out alike: what is said of one
    /// is said of all of these. Samples go in first, then tables of events, which name their assets and tags.
    ImportDialog(Session& session, const QStringList& paths, QWidget* parent);

  private:
    /// Files with the same header, and what is said of them.
    struct Alike {
        std::string header, kind;  ///< the kind of events; empty for samples
        QStringList paths;
        LayoutHints hints;
        QString becomes;   ///< empty while it is not known yet
        QString question;  ///< what has to be said first
    };
    void gather(const QStringList& paths);
    void makeFileList();
    void fillFileList();
    static QString questionOn(const Alike& a);
    void openFile(std::size_t alike);
    void showHints(const LayoutHints& hints);
    void lookAtOthers();
    void answered(std::size_t alike, const QString& becomes, const QString& question);
    void showQuestions();
    void build();
    void makeFields();
    void makeRows();  ///< the first rows, and those that cannot be read
    void arrange();
    void look();  ///< reads the head again with what the fields say
    void showPreview(const ImportPreview& p);
    QString showEvents();
    void showHead(const std::vector<std::string>& header, const std::vector<std::vector<std::string>>& rows);
    void buildChoices(QVBoxLayout* column);
    void buildColumnChoices(QVBoxLayout* column);
    void buildNames(QVBoxLayout* column);
    void chooseNameTable();
    NameSettings names() const;
    void proposeNames();
    void showNameSettings(const NameSettings& settings);
    void showNames(const ImportPreview& p);
    void showUnits(const ImportPreview& p);
    void fillColumnChoices(const std::vector<std::string>& header, bool longForm);
    void start();
    void fillRecipes();
    void useRecipe();
    void keepRecipe();
    LayoutHints hints() const;
    bool asEvents() const;

    Session& session_;
    std::vector<Alike> alike_;
    std::size_t current_ = 0;
    QString path_;           ///< the first of the current ones
    std::string dateOrder_;  ///< as the user prefers it; see LayoutHints
    std::optional<TextSource> source_;
    QComboBox *kind_, *form_, *recipes_, *times_, *separator_, *decimal_, *encoding_;
    QComboBox *timeColumn_, *clockColumn_, *tagColumn_, *valueColumn_, *qualityColumn_;
    QPushButton* saveRecipe_;
    QLineEdit *zone_, *asset_, *noValue_, *names_, *assetNames_, *titleLines_;
    QLabel* title_;
    RowsModel* filesModel_;
    QTableView* files_;
    QPushButton* nameTable_;
    std::vector<std::pair<std::string, MappedName>> tableOfNames_;
    bool onlyTable_ = false;
    QWidget* unitsRow_;
    QLabel* unitsText_;
    QComboBox* units_;
    QTabWidget* tabs_;
    RowsModel* namesModel_;
    QTableView* namesTable_;
    QLabel *facts_, *trouble_, *badTitle_;
    QTableWidget* head_;
    RowsModel* badModel_;
    QTableView* bad_;
    QPushButton* import_;
};

}  // namespace jacinth::app
