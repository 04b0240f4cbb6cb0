// What assets and tags are: role, unit, kind, longest gap, and facts; one at a time or many at once.
#pragma once

#include <QDialog>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/ui.h"
#include "work/settings/facts.h"
#include "work/settings/tag_settings.h"

namespace jacinth::app {

class TagsDialog : public QDialog {
    Q_OBJECT
  public:
    /// Opens with that tag chosen; 0 for none.
    TagsDialog(Session& session, TagId tag, QWidget* parent);

  private:
    void makeFields();
    void arrange();
    void fill();
    void showChosen();
    void takeSettings();
    void takeFact(bool remove);
    std::vector<std::int64_t> chosen() const;  ///< keys of rows: ids of assets, or of tags
    std::vector<TagId> chosenTags() const;
    bool ofAssets() const { return what_->currentIndex() == 1; }
    Result<TagSettings> settingsSaid() const;  ///< in the fields that were changed
    bool take(const std::function<Status()>& change);
    QString statesOf(const std::vector<TagId>& tags) const;

    Session& session_;
    QComboBox *what_, *kind_;
    QLineEdit *filter_, *role_, *unit_, *gap_, *states_, *factName_, *factValue_;
    RowsModel* model_;
    QTableView* table_;
    QWidget* settings_;
    QLabel *chosenSays_, *trouble_;
    QPushButton *apply_, *set_, *unset_;
};

}  // namespace jacinth::app
