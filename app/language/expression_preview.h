// Under an expression that is being written: where it is true over the time in view, or its course, and its
// value at the cursor.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "core/expr/evaluate.h"

namespace jacinth::app {

class ExpressionPreview : public QWidget {
    Q_OBJECT
  public:
    explicit ExpressionPreview(Session& session, QWidget* parent = nullptr);
    /// A text that does not compile for the current asset shows nothing.
    void setText(const QString& text);
    /// The ribbon alone; its words are in the tool tip.
    void setCompact();
    /// `Kiln 3: true at 4 Apr 06:00 · 2.1 % of the time in view`.
    QString words() const;
    const std::vector<TimeRange>& trueRanges() const { return true_; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent*) override;

  private:
    void evaluateSoon();
    void take(const Expression& expression, const Value& value, TimeRange view);
    Instant moment() const;  ///< the pointer's, the cursor's, or the end of the view
    QString valueWords(Instant t) const;
    QRectF ribbon() const;
    void paintNumber(QPainter& p) const;

    Session& session_;
    bool compact_ = false;
    QString text_;
    std::optional<Value> value_;
    ValueType type_ = ValueType::Number;
    QString unit_;
    TimeRange view_{Instant(), Instant(kNanosecond)};
    std::vector<TimeRange> true_, unknown_;
    std::optional<Instant> pointer_;
};

}  // namespace jacinth::app
