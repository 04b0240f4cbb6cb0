#include "app/window/import_words.h"

#include <QStringList>
#include <set>

namespace jacinth::app {

QString sizeText(std::int64_t bytes) {
    if (bytes < 10'000) return QString("%1 B").arg(bytes);
    if (bytes < 10'000'000) return QString("%1 kB").arg(bytes / 1000);
    return QString("%1 MB").arg(bytes / 1'000'000);
}

QString becomesWords(const ImportPreview& p) {
    std::set<std::string> assets, tags;
    for (const auto& [name, mapped] : p.names) {
        assets.insert(mapped.asset);
        tags.insert(mapped.asset + "/" + mapped.tag);
    }
    return QString("samples, %1: %2 %3 on %4 %5")
        .arg(p.layout.longForm ? "long" : "wide")
        .arg(tags.size())
        .arg(tags.size() == 1 ? "tag" : "tags")
        .arg(assets.size())
        .arg(assets.size() == 1 ? "asset" : "assets");
}

QString questionsOf(const ImportPreview& p, bool unitsOpen) {
    QStringList questions;
    for (const std::string& clash : clashesOf(p.names, 3)) questions << QString::fromStdString(clash);
    if (!p.units.empty() && unitsOpen) questions << "Say what becomes of values in another unit.";
    for (const std::string& question : {p.layout.timeQuestion, p.layout.numberQuestion})
        if (!question.empty()) questions << QString::fromStdString(question);
    return questions.join("\n");
}

}  // namespace jacinth::app
