// jacinth [STUDY] [--verbose] [--pictures DIR [--size WxH]]: opens a study in the window, or takes the
// pictures of its views.
#include <QCommandLineParser>
#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <cstdio>

#include "app/pictures.h"
#include "app/window/application.h"
#include "app/window/study_windows.h"
#include "core/base/allocation.h"
#include "work/base/log.h"

namespace {

/// Where nothing is said: the study that was open last, else a new one in the user's own folder.
QString usualStudy() {
    const QStringList recent = jacinth::app::recentStudies();
    if (!recent.isEmpty()) return recent.front();
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + "/jacinth";
    QDir().mkpath(folder);
    return folder + "/study.jacinth";
}

}  // namespace

int main(int argc, char** argv) {
    using namespace jacinth;
    keepFreedMemory();
    app::Application application(argc, argv);
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
    const QCommandLineOption size("size", "Size of the pictures, like 1920x1080", "size", "1280x800");
    const QCommandLineOption dark("dark", "Use the dark theme");
    const QCommandLineOption light("light", "Use the light theme");
    const QCommandLineOption verbose("verbose", "Write the whole log to standard error as well");
    parser.addOptions({pictures, size, dark, light, verbose});
    parser.process(application);
    const auto choice =
        parser.isSet(dark) ? app::ThemeChoice::Dark
        : parser.isSet(light)
            ? app::ThemeChoice::Light
            : static_cast<app::ThemeChoice>(std::clamp(QSettings().value("theme", 0).toInt(), 0, 2));
    startLog("jacinth", parser.isSet(verbose));
    const QString path = parser.positionalArguments().value(0, usualStudy());
    app::StudyWindows windows(choice);
    std::string why;
    if (!(QFile::exists(path) ? windows.open(path, &why) : windows.create(path, &why))) {
        std::fprintf(stderr, "jacinth: %s\n", why.c_str());
        log(LogLevel::Error, why);
        return 1;
    }
    if (parser.isSet(pictures)) {
        const QStringList sides = parser.value(size).split('x');
        const QSize pixels(sides.value(0).toInt(), sides.value(1).toInt());
        if (pixels.width() < 400 || pixels.height() < 300) {
            std::fprintf(stderr, "jacinth: a size is two numbers from 400x300 on, like 1920x1080\n");
            return 2;
        }
        return app::takePictures(*windows.window(), parser.value(pictures), pixels);
    }
    return application.exec();
}
