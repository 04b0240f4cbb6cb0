// One working place of the window: a middle, and its inspector on the right.
#pragma once

#include <QVBoxLayout>
#include <QWidget>

#include "app/base/request.h"
#include "app/base/session.h"
#include "app/base/ui.h"

namespace jacinth::app {

class Bench : public QWidget {
    Q_OBJECT
  public:
    explicit Bench(Session& session) : session_(session), inspector_(new QWidget) {
        setObjectName("bench");
        setAttribute(Qt::WA_StyledBackground);
        inspector_->setObjectName("inspectorPage");
    }
    QWidget* inspector() const { return inspector_; }
    virtual bool hasPages() const { return false; }  ///< each page then scrolls its own inspector
    /// Called when the bench comes to the front.
    virtual void entered() {}
    /// What is under the pointer, for the status bar.
    virtual QString pointerText() const { return {}; }
    /// Opens a thing of the record here (a run, an excursion, a label, a failure, a fix), by its id.
    virtual void openSpan(SpanId) {}
    virtual void openFix(FixId) {}

    /// Fits the scales of its plots to the values in view.
    virtual void fitValues() {}

  signals:
    void pointerMoved();
    void asked(const jacinth::app::Request& request);  ///< of another bench

  protected:
    Session& session_;
    QWidget* inspector_;
};

}  // namespace jacinth::app
