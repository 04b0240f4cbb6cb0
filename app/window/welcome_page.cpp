#include "app/window/welcome_page.h"

#include <QFileInfo>

#include "app/base/ui.h"

namespace jacinth::app {
namespace {

constexpr int kWidth = 660, kButton = 176, kGap = 16, kMargins = 24;

/// A button, and beside it what it needs.
QPushButton* addChoice(QVBoxLayout* column, const QString& words, const QString& name, const QString& says,
                       bool primary = false) {
    auto* row = new QHBoxLayout;
    row->setSpacing(kGap);
    auto* button = makeButton(words, name, primary);
    button->setFixedWidth(kButton);
    auto* what = makeLabel(says, "second");
    what->setWordWrap(true);
    // A wrapped text says how high it is only when it knows its width.
    what->setFixedWidth(kWidth - kButton - kGap - kMargins);
    what->setMinimumHeight(what->heightForWidth(what->width()));
    row->addWidget(button, 0, Qt::AlignTop);
    row->addWidget(what, 1);
    column->addLayout(row);
    return button;
}

}  // namespace

WelcomePage::WelcomePage(QWidget* parent) : QWidget(parent), recent_(new QWidget) {
    setObjectName("welcome");
    auto* middle = new QWidget;
    middle->setFixedWidth(kWidth);
    auto* column = new QVBoxLayout(middle);
    column->setSpacing(14);
    column->addWidget(makeLabel("This study holds no record yet", "title"));
    auto* import =
        addChoice(column, "Import files…", "welcomeImport",
                  "Text files of samples: a column with the time and one column per tag, headed "
                  "“Asset/Tag [unit]”, or one row per sample with time, tag and value. You see the first "
                  "rows before anything is stored.",
                  true);
    auto* folder = addChoice(column, "Import a folder…", "welcomeFolder",
                             "All text files in a folder and the folders in it, packed with gzip or not.");
    auto* demo = addChoice(
        column, "Open the demo plant", "welcomeDemo",
        "Corvane Maltings, made up: six kilns, 61 days, ten million samples, with failures, drifting "
        "sensors and a shift log. It needs nothing and takes some seconds to make.");
    auto* open =
        addChoice(column, "Open a study…", "welcomeOpen", "A .jacinth file that you or somebody else made.");
    auto* list = new QVBoxLayout(recent_);
    list->setContentsMargins(0, 0, 0, 0);
    column->addWidget(recent_);
    auto* outer = new QVBoxLayout(this);
    outer->addStretch(2);
    outer->addWidget(middle, 0, Qt::AlignHCenter);
    outer->addStretch(3);
    connect(import, &QPushButton::clicked, this, &WelcomePage::importAsked);
    connect(folder, &QPushButton::clicked, this, &WelcomePage::folderAsked);
    connect(demo, &QPushButton::clicked, this, &WelcomePage::demoAsked);
    connect(open, &QPushButton::clicked, this, &WelcomePage::openAsked);
}

void WelcomePage::setRecent(const QStringList& paths) {
    auto* list = static_cast<QVBoxLayout*>(recent_->layout());
    while (QLayoutItem* item = list->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    recent_->setVisible(!paths.isEmpty());
    recent_->setMinimumHeight(static_cast<int>(paths.size() + 1) * 34);
    if (paths.isEmpty()) return;
    list->addWidget(makeLabel("Open again", "section"));
    for (const QString& path : paths) {
        auto* button = makeButton(QFileInfo(path).completeBaseName() + "   ·   " + path, "welcomeRecent");
        button->setFlat(true);
        button->setStyleSheet("text-align: left; border: none; background: transparent; padding: 2px 0;");
        connect(button, &QPushButton::clicked, this, [this, path] { emit recentAsked(path); });
        list->addWidget(button);
    }
}

}  // namespace jacinth::app
