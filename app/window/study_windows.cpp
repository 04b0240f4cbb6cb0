#include "app/window/study_windows.h"

#include <fmt/format.h>
#include <unistd.h>

#include <QApplication>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <atomic>

#include "app/base/preferences.h"
#include "demo/demo.h"
#include "work/label/kinds.h"

namespace jacinth::app {
namespace {
constexpr qsizetype kMostRecent = 8;

/// Where another program was faster, its file stays.
Status moveToPlace(const QString& part, const QString& path) {
    if (QFile::rename(part, path)) return Done{};
    QFile::remove(part);
    if (QFileInfo(path).isFile()) return Done{};
    return Error{path.toStdString() + " cannot be written"};
}

}  // namespace

QStringList recentStudies() {
    QStringList out;
    for (const QString& path : QSettings().value("recent").toStringList())
        if (QFileInfo(path).isFile()) out << path;
    return out;
}

void rememberStudy(const QString& path) {
    const QString whole = QFileInfo(path).absoluteFilePath();
    QStringList all = recentStudies();
    all.removeAll(whole);
    all.prepend(whole);
    QSettings().setValue("recent", QStringList(all.mid(0, kMostRecent)));
}

StudyWindows::~StudyWindows() = default;

bool StudyWindows::open(const QString& path, std::string* why) {
    const std::string file = path.toStdString();
    return take(Study::open(file), why);
}

bool StudyWindows::create(const QString& path, std::string* why) {
    auto made = Study::create(path.toStdString());
    // Where the site's book cannot be read the study keeps the one it was made with, and says so.
    const Status book = made ? beginWithSiteBook(**made) : Status(Done{});
    const bool opened = take(std::move(made), why);
    if (opened && !book) emit window_->session().failed(QString::fromStdString(book.error().message));
    return opened;
}

bool StudyWindows::take(Result<std::unique_ptr<Study>> study, std::string* why) {
    if (!study) {
        if (why) *why = study.error().message;
        if (window_) emit window_->session().failed(QString::fromStdString(study.error().message));
        return false;
    }
    try {
        show(std::move(*study));
        return true;
    } catch (const std::exception& e) {
        if (why) *why = e.what();
        if (window_) emit window_->session().failed(QString::fromUtf8(e.what()));
        return false;
    }
}

/// The new window stands before the old one goes: the last window to close ends the program.
void StudyWindows::show(std::unique_ptr<Study> study) {
    const Preferences preferred = Preferences::load();
    auto next = std::make_unique<MainWindow>(std::move(study), window_ ? window_->themeChoice() : theme_);
    next->session().setWho(preferred.name);
    next->session().setCacheSize(static_cast<std::size_t>(preferred.cacheMegabytes) << 20);
    rememberStudy(QString::fromStdString(next->session().study().path()));
    connect(
        next.get(), &MainWindow::studyAsked, this, [this](const QString& path) { open(path); },
        Qt::QueuedConnection);
    connect(
        next.get(), &MainWindow::newStudyAsked, this, [this](const QString& path) { create(path); },
        Qt::QueuedConnection);
    connect(next.get(), &MainWindow::demoAsked, this, &StudyWindows::openDemo, Qt::QueuedConnection);
    next->show();
    std::unique_ptr<MainWindow> before = std::exchange(window_, std::move(next));
    if (before) {
        before->close();
        before.release()->deleteLater();
    }
    emit shown();
}

void StudyWindows::openDemo() {
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + "/jacinth";
    const QString path = folder + "/corvane.jacinth";
    if (QFileInfo(path).isFile()) {
        open(path);
        return;
    }
    if (!window_) return;
    QDir().mkpath(folder);
    window_->session().runJob(window_.get(), "demo plant", "Making the demo plant",
                              [this, path](JobContext& job) -> std::function<void()> {
                                  // Another program may be making it too, or a job that was stopped.
                                  static std::atomic<int> begun{0};
                                  const std::string part =
                                      fmt::format("{}.part-{}-{}", path.toStdString(), ::getpid(), ++begun);
                                  auto made = demo::makeStudy(demo::drawTruth({}), part, job.progress);
                                  Status done = made ? Status(Done{}) : Status(made.error());
                                  if (made) made->reset();
                                  if (done) done = moveToPlace(QString::fromStdString(part), path);
                                  return [this, path, done] {
                                      if (window_->session().report(done)) open(path);
                                  };
                              });
}

}  // namespace jacinth::app
