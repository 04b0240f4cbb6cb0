// The window with the open study, and going from one study to another: a study that cannot be opened leaves
// the window as it is.
#pragma once

#include "app/window/main_window.h"

namespace jacinth::app {

/// Studies that were open before, newest first; those whose file is gone are left out.
QStringList recentStudies();
void rememberStudy(const QString& path);

class StudyWindows : public QObject {
    Q_OBJECT
  public:
    explicit StudyWindows(ThemeChoice theme) : theme_(theme) {}
    ~StudyWindows() override;

    /// Opens the study at the path in a window, which takes the place of the one before. False, with the
    /// reason reported in the window there is (or in `why`), where it cannot be opened.
    bool open(const QString& path, std::string* why = nullptr);
    /// Makes a new, empty study and opens it. Fails where there is a file.
    bool create(const QString& path, std::string* why = nullptr);
    /// The demo plant in the user's own folder, made where it is not there yet.
    void openDemo();
    MainWindow* window() const { return window_.get(); }

  signals:
    void shown();

  private:
    bool take(Result<std::unique_ptr<Study>> study, std::string* why);
    void show(std::unique_ptr<Study> study);
    ThemeChoice theme_;
    std::unique_ptr<MainWindow> window_;
};

}  // namespace jacinth::app
