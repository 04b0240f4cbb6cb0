// jacinth [STUDY] [--pictures DIR]: opens a study in the window, or takes the pictures of its views.
#include <QApplication>
#include <QCommandLineParser>
#include <QSettings>
#include <cstdio>

#include "app/pictures.h"
#include "app/shell/main_window.h"

int main(int argc, char** argv) {
    using namespace jacinth;
    QApplication application(argc, argv);
    QApplication::setApplicationName("Jacinth");
    QApplication::setOrganizationName("Jacinth");
    QApplication::setApplicationVersion("0.1");
    QCommandLineParser parser;
    parser.setApplicationDescription("From raw record to proved rule.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("study", "A study file; made where there is none");
    const QCommandLineOption pictures("pictures", "Take a picture of each view into this folder and end",
                                      "folder");
    const QCommandLineOption dark("dark", "Use the dark theme");
    const QCommandLineOption light("light", "Use the light theme");
    parser.addOptions({pictures, dark, light});
    parser.process(application);
    const QString path = parser.positionalArguments().value(0, "study.jacinth");
    const auto fail = [](const std::string& why) {
        std::fprintf(stderr, "jacinth: %s\n", why.c_str());
        return 1;
    };
    const auto choice = parser.isSet(dark) ? app::ThemeChoice::Dark
                        : parser.isSet(light)
                            ? app::ThemeChoice::Light
                            : static_cast<app::ThemeChoice>(QSettings().value("theme", 0).toInt());
    const auto openOrCreate = [](const QString& file) {
        return QFile::exists(file) ? Study::open(file.toStdString()) : Study::create(file.toStdString());
    };
    auto study = openOrCreate(path);
    if (!study) return fail(study.error().message);
    auto window = std::make_unique<app::MainWindow>(std::move(*study), choice);
    if (parser.isSet(pictures)) return app::takePictures(*window, parser.value(pictures));
    std::function<void(const QString&)> another = [&](const QString& file) {
        auto next = openOrCreate(file);
        if (!next) {
            emit window->session().failed(QString::fromStdString(next.error().message));
            return;
        }
        window->close();
        QMetaObject::invokeMethod(
            &application,
            [&, raw = next->release()] {
                window = std::make_unique<app::MainWindow>(std::unique_ptr<Study>(raw), choice);
                QObject::connect(window.get(), &app::MainWindow::studyAsked, &application, another);
                window->show();
            },
            Qt::QueuedConnection);
    };
    application.setQuitOnLastWindowClosed(true);
    QObject::connect(window.get(), &app::MainWindow::studyAsked, &application, another);
    window->show();
    return application.exec();
}
