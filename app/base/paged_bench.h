// A bench with several ways of looking, turned to by a row of buttons or Alt+1, Alt+2 …
#pragma once

#include <QButtonGroup>
#include <QStackedWidget>

#include "app/base/bench_page.h"

namespace jacinth::app {

class PagedBench : public Bench {
    Q_OBJECT
  public:
    /// Opens on the page of that number, once it is added; the others are made when they are turned to.
    explicit PagedBench(Session& session, int firstPage = 0);
    void entered() override;
    bool hasPages() const override { return true; }
    QString pointerText() const override { return shown()->pointerText(); }
    void turnToPage(int page);
    int pageShown() const { return shown_; }
    QStringList pageNames() const;  ///< as on the buttons

  protected:
    /// A page to come, in the order of calls. `make` is called when it is first asked for: a window opens in
    /// a fraction of the time.
    void addPage(const QString& buttonName, const QString& says, std::function<BenchPage*()> make);
    /// Between the title and the pages.
    void addBar(QWidget* bar) { column_->insertWidget(column_->count() - 1, bar); }
    /// On the right of the row of buttons.
    void addToRow(QWidget* widget) { row_->addWidget(widget); }
    /// The page, made now if it was not.
    BenchPage* page(int index);
    QLabel* titleLabel() { return title_; }

  private:
    struct Entry {
        std::function<BenchPage*()> make;
        BenchPage* page = nullptr;
        QWidget* side = nullptr;  ///< its inspector, scrolled
    };
    BenchPage* shown() const { return pages_[static_cast<std::size_t>(shown_)].page; }
    void follow();

    QVBoxLayout* column_;
    QHBoxLayout* row_;
    QLabel *title_, *state_;
    QButtonGroup* buttons_;
    QStackedWidget *stack_, *inspectors_;
    std::vector<Entry> pages_;
    int shown_;
};

}  // namespace jacinth::app
