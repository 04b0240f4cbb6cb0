// The data of labels, cut out into a folder: in which form, with what margin, and how it is split.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>

#include "app/base/session.h"
#include "work/label/cut_outs.h"

namespace jacinth::app {

class CutOutDialog : public QDialog {
    Q_OBJECT
  public:
    /// Of these marks, or of all that have a name where there are none.
    CutOutDialog(Session& session, std::vector<SpanId> chosen, QWidget* parent);

  private:
    void build();
    void choose();
    void write();
    Result<CutOutSpec> spec() const;

    Session& session_;
    std::vector<SpanId> chosen_;
    QComboBox *which_, *format_, *split_;
    QLineEdit *folder_, *every_, *margin_, *shares_, *seed_;
    QCheckBox* balance_;
    QLabel* said_;
};

}  // namespace jacinth::app
