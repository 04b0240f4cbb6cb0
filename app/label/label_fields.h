// The inspector of the marks: the label book with its keys, where new marks go, and what the chosen marks
// say.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>

#include "app/base/check_menu.h"
#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "store/tracks.h"

namespace jacinth::app {

class LabelFields : public QObject {
    Q_OBJECT
  public:
    LabelFields(Session& session, QVBoxLayout* side);
    void fillBook(const std::vector<Span>& labels);
    void show(const std::vector<Span>& chosen);  ///< none, one, or several at once
    /// The assets that a new mark on `current` goes to.
    std::vector<AssetId> assetsFor(AssetId current) const;
    void fillAssets();

  signals:
    void named(const std::string& kind);
    void bookAsked();
    void removeAsked();
    void alikeAsked();
    /// The chosen marks as they are to be, with what the step is called.
    void edited(const std::vector<Span>& labels, const QString& step);
    void wrong(const QString& why);

  private:
    void buildBook(QVBoxLayout* side);
    void buildChosen(QVBoxLayout* side);
    void readTimes();
    void readNote();
    void readCertainty();
    void readTags();
    void fillTags();
    QString factsOf(const Span& label) const;

    Session& session_;
    RowsModel* bookModel_;
    QTableView* book_;
    QLabel *title_, *made_, *facts_;
    MomentField *from_, *to_;
    QLineEdit* note_;
    QComboBox* certainty_;
    CheckButton *tags_, *assets_;
    QPushButton *remove_, *alike_;
    std::vector<Span> chosen_;
    std::vector<std::string> kinds_;  ///< by row of the book
};

}  // namespace jacinth::app
