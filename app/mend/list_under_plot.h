// One of the lists under the plot of the fixes: its controls stand in the row of buttons above it.
#pragma once

#include <QHBoxLayout>
#include <QWidget>

#include "app/base/session.h"
#include "app/base/ui.h"

namespace jacinth::app {

class ListUnderPlot : public QWidget {
    Q_OBJECT
  public:
    explicit ListUnderPlot(Session& session) : session_(session), head_(new QWidget) {
        headRow_ = new QHBoxLayout(head_);
        headRow_->setContentsMargins(0, 0, 0, 0);
    }
    QWidget* head() const { return head_; }
    virtual void fill() = 0;  ///< after a change of the study, of the tag, or when it comes to the front
    virtual int wantedHeight() const { return 250; }  ///< in pixels

  protected:
    /// Where to look, for lists of what is found.
    enum LookIn { kTag, kAsset, kFleet };
    QComboBox* makeScope(const QString& name, const QString& accessible) {
        QComboBox* made = makeChoice(name, accessible, {"this tag", "this asset", "the fleet"});
        made->setCurrentIndex(kFleet);
        headRow_->addWidget(made);
        return made;
    }
    /// Words at the end of the head, as wide as there is room: they never make the window wider.
    QLabel* makeStatus(const QString& name) {
        QLabel* made = makeLabel("", "second");
        made->setObjectName(name);
        made->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        made->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
        headRow_->addWidget(made, 1);
        return made;
    }
    /// Says so, and false, where the tag or the asset that is to be looked at is not chosen.
    bool scopeIsChosen(const QComboBox* scope) {
        const bool chosen =
            scope->currentIndex() == kFleet ||
            (scope->currentIndex() == kTag ? bool(session_.view().tag()) : bool(session_.view().asset()));
        if (!chosen) emit session_.failed("Choose it in the plant panel, or look in the fleet.");
        return chosen;
    }

    Session& session_;
    QWidget* head_;
    QHBoxLayout* headRow_;
};

}  // namespace jacinth::app
