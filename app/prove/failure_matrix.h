// Failure by failure, rule by rule: how long before each it warned.
#pragma once

#include <QWidget>
#include <optional>

#include "app/base/session.h"
#include "work/prove/comparing.h"

namespace jacinth::app {

class FailureMatrix : public QWidget {
    Q_OBJECT
  public:
    explicit FailureMatrix(Session& session);
    void show(std::vector<QString> names, std::optional<ComparedRules> found);
    void say(const QString& instead);
    QRectF cellOf(std::size_t failure, std::size_t rule) const;
    QSize sizeHint() const override;

  signals:
    void opened(AssetId asset, jacinth::Instant failure);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;

  private:
    const FailureVerdict* verdictOf(std::size_t failure, std::size_t rule) const;
    void paintCell(QPainter& p, std::size_t failure, std::size_t rule) const;
    void paintFooters(QPainter& p) const;
    double columnWidth() const;
    double rowTop(std::size_t row) const;
    Session& session_;
    std::vector<QString> names_;
    std::optional<ComparedRules> found_;
    QString instead_;
};

}  // namespace jacinth::app
