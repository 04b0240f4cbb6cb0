// A small panel over the plot in which a check reading is written down, changed or removed.
#pragma once

#include <QFrame>
#include <QLineEdit>
#include <QPushButton>

#include "app/base/session.h"
#include "app/base/time_field.h"
#include "app/base/ui.h"
#include "core/span/span.h"

namespace jacinth::app {

class ReadingPopup : public QFrame {
    Q_OBJECT
  public:
    ReadingPopup(Session& session, QWidget* over);
    /// For a new reading of the tag at a moment; the value is a proposal.
    void write(TagId tag, Instant t, double value, const QPoint& at);
    /// For the reading that is on record at that moment; false where there is none.
    bool change(TagId tag, Instant t, const QPoint& at);

  protected:
    void keyPressEvent(QKeyEvent* e) override;

  private:
    void open(const QPoint& at);
    void take();
    void remove();

    Session& session_;
    MomentField* when_;
    QLineEdit *value_, *by_;
    QPushButton *keep_, *remove_;
    QLabel* title_;
    Span span_;  ///< with its id where it is on record
};

}  // namespace jacinth::app
