// A line of words that gives way: what does not fit ends in dots and is said in full by its hint.
#pragma once

#include <QLabel>
#include <QPainter>

#include "app/base/ui.h"

namespace jacinth::app {

class FittedLabel : public QLabel {
  public:
    FittedLabel() { setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed); }
    QSize minimumSizeHint() const override { return {40, QLabel::minimumSizeHint().height()}; }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        const QString fitting = fontMetrics().elidedText(text(), Qt::ElideRight, width());
        setToolTip(fitting == text() ? QString() : plainTip(text()));
        p.setPen(palette().color(foregroundRole()));
        p.drawText(rect(), static_cast<int>(alignment()), fitting);
    }
};

}  // namespace jacinth::app
