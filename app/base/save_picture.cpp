#include "app/base/save_picture.h"

#include <qcustomplot.h>

#include <QBuffer>
#include <QClipboard>
#include <QGuiApplication>
#include <QMenu>
#include <QMessageBox>
#include <QSvgGenerator>

#include "app/base/file_dialogs.h"
#include "store/write_file.h"

namespace jacinth::app {
namespace {

QPixmap pictureOf(QWidget* plot) {
    constexpr double kFine = 2;
    QPixmap pixmap((QSizeF(plot->size()) * kFine).toSize());
    pixmap.setDevicePixelRatio(kFine);
    pixmap.fill(plot->palette().color(QPalette::Window));
    plot->render(&pixmap);
    return pixmap;
}

QByteArray svgOf(QWidget* plot) {
    QByteArray out;
    QBuffer buffer(&out);
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setSize(plot->size());
    svg.setViewBox(plot->rect());
    svg.setTitle(plot->accessibleName());
    if (auto* curves = qobject_cast<QCustomPlot*>(plot)) {
        QCPPainter painter;
        painter.begin(&svg);
        painter.setMode(QCPPainter::pmVectorized);
        curves->toPainter(&painter, plot->width(), plot->height());
        painter.end();
    } else {
        QPainter painter(&svg);
        plot->render(&painter);
    }
    return out;
}

QByteArray pngOf(QWidget* plot) {
    QByteArray out;
    QBuffer buffer(&out);
    buffer.open(QIODevice::WriteOnly);
    pictureOf(plot).save(&buffer, "PNG");
    return out;
}

void askAndSave(QWidget* plot) {
    const QString path =
        askFileToSave(plot, {"Save picture", " " + plot->objectName() + ".png", "PNG (*.png);;SVG (*.svg)"});
    if (path.isEmpty()) return;
    if (const Status done = savePicture(plot, path); !done)
        QMessageBox::warning(plot, "Save picture", QString::fromStdString(done.error().message));
}

}  // namespace

Status savePicture(QWidget* plot, const QString& path) {
    const bool lines = path.endsWith(".svg", Qt::CaseInsensitive);
    const QByteArray bytes = lines ? svgOf(plot) : pngOf(plot);
    return writeWhole(path.toStdString(), {bytes.constData(), static_cast<std::size_t>(bytes.size())});
}

void copyPicture(QWidget* plot) {
    QGuiApplication::clipboard()->setPixmap(pictureOf(plot));
}

void addPictureCommands(QMenu* menu, QWidget* plot) {
    menu->addAction("Copy picture", plot, [plot] { copyPicture(plot); });
    menu->addAction("Save picture…", plot, [plot] { askAndSave(plot); });
}

void givePictureMenu(QWidget* plot) {
    plot->setContextMenuPolicy(Qt::CustomContextMenu);
    QObject::connect(plot, &QWidget::customContextMenuRequested, plot, [plot](const QPoint& at) {
        QMenu menu(plot);
        menu.setObjectName("pictureMenu");
        addPictureCommands(&menu, plot);
        menu.exec(plot->mapToGlobal(at));
    });
}

}  // namespace jacinth::app
