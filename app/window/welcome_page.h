// What a study without a record shows: what one does first, and what that needs.
#pragma once

#include <QWidget>

namespace jacinth::app {

class WelcomePage : public QWidget {
    Q_OBJECT
  public:
    explicit WelcomePage(QWidget* parent = nullptr);
    void setRecent(const QStringList& paths);  ///< studies that were open before, newest first

  signals:
    void importAsked();
    void folderAsked();
    void demoAsked();
    void openAsked();
    void recentAsked(const QString& path);

  private:
    QWidget* recent_;
};

}  // namespace jacinth::app
