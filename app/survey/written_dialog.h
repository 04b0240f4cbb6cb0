// One entry of what was written down: made by hand, or changed.
#pragma once

#include <QDialog>

#include "app/base/session.h"
#include "app/base/time_field.h"
#include "app/base/ui.h"

namespace jacinth::app {

/// A span without id is new. Changes the study as one undoable step when it is accepted.
class WrittenDialog : public QDialog {
    Q_OBJECT
  public:
    WrittenDialog(Session& session, const Span& span, int kind, QWidget* parent);

  private:
    void makeFields(int kind);
    void arrange();
    void fillTags();
    void follow();
    void take();
    bool store(const Span& span, int kind);

    Session& session_;
    Span span_;
    QComboBox *kind_, *asset_, *tag_;
    MomentField *from_, *to_;
    QLineEdit *text_, *value_, *by_;
    QWidget *endRow_, *readingRow_, *textRow_;
    QLabel* trouble_;
};

}  // namespace jacinth::app
