// Rows of a picture that has more of them than fit: a scroll bar, and which of them are drawn.
#pragma once

#include <QScrollBar>
#include <QWheelEvent>
#include <algorithm>

namespace jacinth::app {

class RowWindow {
  public:
    /// The scroll bar is a child of the picture, which is drawn again when it moves.
    explicit RowWindow(QWidget* on) : bar_(new QScrollBar(Qt::Vertical, on)) {
        bar_->setObjectName("rowBar");
        bar_->hide();
        QObject::connect(bar_, &QScrollBar::valueChanged, on, qOverload<>(&QWidget::update));
    }
    /// So many rows, of which `fit` fit; the bar stands at the right of `rect`. The first row stays where it
    /// can.
    void lay(int rows, int fit, const QRect& rect) {
        rows_ = rows;
        fit_ = std::max(1, std::min(fit, rows));
        bar_->setPageStep(fit_);
        bar_->setSingleStep(1);
        bar_->setRange(0, std::max(0, rows_ - fit_));
        bar_->setGeometry(rect.right() - kWide + 1, rect.top(), kWide, rect.height());
        bar_->setVisible(rows_ > fit_);
    }
    int first() const { return bar_->value(); }
    int end() const { return std::min(rows_, first() + fit_); }
    int rows() const { return rows_; }
    bool all() const { return rows_ <= fit_; }
    void show(int row) {
        if (row < first()) bar_->setValue(row);
        if (row >= end()) bar_->setValue(row - fit_ + 1);
    }
    /// True where it was taken: where all rows are there, the wheel is for somebody else.
    bool wheel(QWheelEvent* e) {
        if (all()) return false;
        bar_->setValue(first() - e->angleDelta().y() / 40);
        e->accept();
        return true;
    }
    /// “1 – 18 of 250”; empty where all are there.
    QString words() const { return all() ? QString() : words(first() + 1, end(), rows_); }
    static QString words(int first, int last, int of) {
        return QString("%1 – %2 of %3").arg(first).arg(last).arg(of);
    }
    static constexpr int kWide = 10;

  private:
    QScrollBar* bar_;
    int rows_ = 0, fit_ = 1;
};

}  // namespace jacinth::app
