// Import with a preview: what the file is, its first rows and its first bad ones, before anything is stored.
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
    /// Several files are taken to be laid out like the first, which is shown.
    ImportDialog(Session& session, const QStringList& paths, QWidget* parent);

  private:
    void build();
    void makeFields();
    void makeRows();  ///< the first rows, and those that cannot be read
    void arrange();
    void look();  ///< reads the head again with what the fields say
    void showPreview(const ImportPreview& p);
    void showEvents();
    void showHead(const std::vector<std::string>& header, const std::vector<std::vector<std::string>>& rows);
    void buildChoices(QVBoxLayout* column);
    void buildColumnChoices(QVBoxLayout* column);
    void buildNames(QVBoxLayout* column);
    void chooseNameTable();
    NameSettings names() const;
    void proposeNames();
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
    QStringList paths_;
    QString path_;           ///< the first of them
    std::string dateOrder_;  ///< as the user prefers it; see LayoutHints
    LayoutHints recipe_;
    std::optional<TextSource> source_;
    QComboBox *kind_, *form_, *recipes_, *times_, *separator_, *decimal_, *encoding_;
    QComboBox *timeColumn_, *clockColumn_, *tagColumn_, *valueColumn_, *qualityColumn_;
    QPushButton* saveRecipe_;
    QLineEdit *zone_, *asset_, *noValue_, *names_, *assetNames_;
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
