// A short video for tests: motion JPEG in AVI (Microsoft's RIFF format), whose frames are plain grey.
#pragma once

#include <QBuffer>
#include <QColor>
#include <QFile>
#include <QImage>
#include <functional>

namespace jacinth::test {

/// `frames` pictures, so many a second; each as bright (0 to 255) as `brightness` says.
inline void makeVideo(const std::string& path, int frames, int perSecond,
                      const std::function<int(int frame)>& brightness) {
    constexpr quint32 kWidth = 64, kHeight = 48;
    const auto number = [](QByteArray& to, quint32 v, int bytes = 4) {
        for (int i = 0; i < bytes; ++i) to.append(static_cast<char>(v >> (8 * i)));
    };
    const auto numbers = [&](QByteArray& to, std::initializer_list<quint32> all) {
        for (const quint32 v : all) number(to, v);
    };
    const auto chunk = [&](const char* name, const QByteArray& body) {
        QByteArray out(name);
        number(out, static_cast<quint32>(body.size()));
        return out + body;
    };
    const auto count = static_cast<quint32>(frames), rate = static_cast<quint32>(perSecond);
    QByteArray pictures("movi"), index;
    for (int i = 0; i < frames; ++i) {
        QImage image(kWidth, kHeight, QImage::Format_RGB32);
        image.fill(QColor(brightness(i), brightness(i), brightness(i)));
        QByteArray jpeg;
        QBuffer buffer(&jpeg);
        buffer.open(QIODevice::WriteOnly);
        image.save(&buffer, "JPG", 95);
        if (jpeg.size() % 2) jpeg.append('\0');
        index.append("00dc");
        numbers(index, {0x10, static_cast<quint32>(pictures.size()), static_cast<quint32>(jpeg.size())});
        pictures.append(chunk("00dc", jpeg));
    }
    QByteArray head, stream("vids"), format;
    numbers(head, {1'000'000 / rate, 0, 0, 0x10, count, 0, 1, 0, kWidth, kHeight, 0, 0, 0, 0});
    stream.append("MJPG");
    numbers(stream, {0, 0, 0, 1, rate, 0, count, 0, 0xffffffff, 0, 0, kWidth | kHeight << 16});
    numbers(format, {40, kWidth, kHeight});
    number(format, 1, 2);
    number(format, 24, 2);
    format.append("MJPG");
    numbers(format, {kWidth * kHeight * 3, 0, 0, 0, 0});
    const QByteArray headers =
        "hdrl" + chunk("avih", head) + chunk("LIST", "strl" + chunk("strh", stream) + chunk("strf", format));
    QFile file(QString::fromStdString(path));
    file.open(QIODevice::WriteOnly);
    file.write(
        chunk("RIFF", "AVI " + chunk("LIST", headers) + chunk("LIST", pictures) + chunk("idx1", index)));
}

}  // namespace jacinth::test
