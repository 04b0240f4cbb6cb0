// The field that says and takes the time in view: “4 Apr 2026 06:00 +2d”.
#pragma once

#include <QLayout>
#include <QLineEdit>

#include "app/base/session.h"

namespace jacinth::app {

class TimeField : public QLineEdit {
    Q_OBJECT
  public:
    explicit TimeField(Session& session, QWidget* parent = nullptr);

  private:
    void show_();
    void take();
    Session& session_;
};

/// The head of a bench: its title, and the time in view on the right.
QLayout* makeTitleRow(QWidget* title, Session& session);

/// A field for one moment, read back as typed. `moment()` is empty where the text is not a time.
class MomentField : public QLineEdit {
    Q_OBJECT
  public:
    MomentField(Session& session, const QString& name, const QString& accessible);
    std::optional<Instant> moment() const;
    void setMoment(Instant t);

  private:
    Session& session_;
};

}  // namespace jacinth::app
