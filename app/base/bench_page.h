// One way of looking in a bench: a picture or a table, and its few controls in the inspector.
#pragma once

#include <QTimer>

#include "app/base/bench.h"

namespace jacinth::app {

/// Pages calculate what they show beside the interface thread, and only while they are looked at.
class BenchPage : public QWidget {
    Q_OBJECT
  public:
    /// `followsView`: what it shows depends on the time in view.
    explicit BenchPage(Session& session, bool followsView = true);
    QWidget* inspector() const { return inspector_; }
    virtual QString title() const = 0;
    virtual QString state() const { return {}; }  ///< beside the title, in the second ink
    virtual QString pointerText() const { return {}; }
    /// What is shown, as text with tabs, for the clipboard.
    virtual QString figures() const { return {}; }
    /// Called when the page comes to the front.
    virtual void entered();

  signals:
    void pointerMoved();
    void titleChanged();
    void tracesAsked();                                ///< the user wants to see the asset's traces
    void asked(const jacinth::app::Request& request);  ///< of another bench

  protected:
    /// Makes the picture again, soon; at once when the page is next entered if it is not looked at.
    void refreshSoon();
    virtual void refresh() = 0;
    /// A button that puts figures() on the clipboard, and the room below it.
    void addCopyButton(QVBoxLayout* to);
    /// The tag that pages of numbers look at: the selected one, or the first of the asset with numbers.
    const Tag* numberTag() const;

    Session& session_;
    QWidget* inspector_;
    QVBoxLayout* side_;

  private:
    QTimer* later_;
    bool stale_ = true;
};

}  // namespace jacinth::app
