// What a user sets once for all studies, and the dialog for it.
#pragma once

#include <QDialog>
#include <QSettings>

#include "app/base/session.h"

class QCheckBox;
class QComboBox;
class QLineEdit;

namespace jacinth::app {

/// Kept in the user's own settings. The zone belongs to the study and is asked in the same dialog.
struct Preferences {
    QString name;       ///< who changes things; the account's name where empty
    int theme = 0;      ///< ThemeChoice
    QString dateOrder;  ///< of dates in files that can be read day or month first; empty to ask each time
    bool snap = true;   ///< edges of marks and fixes go to the nearest sample
    int cacheMegabytes = 64;  ///< of samples kept in memory, per open study

    static Preferences load();
    void save() const;
};

class PreferencesDialog : public QDialog {
    Q_OBJECT
  public:
    PreferencesDialog(Session& session, QWidget* parent);

  signals:
    void themeChosen(int theme);

  private:
    void accept() override;
    Session& session_;
    QLineEdit *name_, *zone_, *cache_;
    QComboBox *theme_, *dates_;
    QCheckBox* snap_;
};

}  // namespace jacinth::app
