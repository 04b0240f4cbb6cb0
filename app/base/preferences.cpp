#include "app/base/preferences.h"

#include <QCheckBox>

#include "app/base/ui.h"
#include "work/settings/study_settings.h"

namespace jacinth::app {
namespace {
constexpr int kLeastCache = 16, kMostCache = 16384;
}

Preferences Preferences::load() {
    const QSettings s;
    Preferences out;
    out.name = s.value("name").toString();
    out.theme = std::clamp(s.value("theme", 0).toInt(), 0, 2);
    out.dateOrder = s.value("dateOrder").toString();
    out.snap = s.value("snap", true).toBool();
    out.cacheMegabytes =
        std::clamp(s.value("cacheMegabytes", out.cacheMegabytes).toInt(), kLeastCache, kMostCache);
    return out;
}

void Preferences::save() const {
    QSettings s;
    s.setValue("name", name);
    s.setValue("theme", theme);
    s.setValue("dateOrder", dateOrder);
    s.setValue("snap", snap);
    s.setValue("cacheMegabytes", cacheMegabytes);
}

PreferencesDialog::PreferencesDialog(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setObjectName("preferencesDialog");
    setWindowTitle("Preferences");
    resize(460, 330);
    const Preferences now = Preferences::load();
    name_ = makeField("preferredName", "Your name");
    name_->setText(now.name);
    name_->setPlaceholderText(QString::fromStdString(session.study().who()));
    theme_ = makeChoice("preferredTheme", "Theme", {"as the desktop", "light", "dark"});
    theme_->setCurrentIndex(now.theme);
    dates_ = makeChoice("preferredDates", "Dates in files", {"ask where it is not clear"});
    dates_->addItem("day first", "day-first");
    dates_->addItem("month first", "month-first");
    dates_->setCurrentIndex(std::max(0, dates_->findData(now.dateOrder)));
    snap_ = new QCheckBox("snap to the nearest sample");
    snap_->setObjectName("preferredSnap");
    snap_->setChecked(now.snap);
    cache_ = makeField("preferredCache", "Memory for samples");
    cache_->setText(QString::number(now.cacheMegabytes));
    zone_ = makeField("studyZone", "Zone of this study");
    zone_->setText(QString::fromStdString(session.study().setting("zone", "UTC")));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(8);
    column->addWidget(makeLabel("You", "section"));
    addRow(column, "Name in the ledger", name_);
    addRow(column, "Theme", theme_);
    addRow(column, "Dates in files", dates_);
    addRow(column, "Edges of marks and fixes", snap_);
    column->addWidget(makeFields("Memory for samples", {{"MB", cache_}}));
    column->addWidget(makeRule());
    column->addWidget(makeLabel("This study", "section"));
    addRow(column, "Time zone", zone_);
    column->addStretch();
    auto* buttons = new QHBoxLayout;
    auto* cancel = makeButton("Cancel", "preferencesCancel");
    auto* good = makeButton("Apply", "preferencesApply", true);
    buttons->addStretch();
    buttons->addWidget(cancel);
    buttons->addWidget(good);
    column->addLayout(buttons);
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
    connect(good, &QPushButton::clicked, this, &PreferencesDialog::accept);
}

void PreferencesDialog::accept() {
    bool number = false;
    const int cache = cache_->text().toInt(&number);
    const bool cacheGood = number && cache >= kLeastCache && cache <= kMostCache;
    const std::string zone = zone_->text().trimmed().toStdString();
    const bool zoneGood = static_cast<bool>(Zone::named(zone));
    markWrong(cache_, !cacheGood, QString("a number of MB from %1 to %2").arg(kLeastCache).arg(kMostCache));
    markWrong(zone_, !zoneGood, "not a time zone; names are like Europe/Oslo");
    if (!cacheGood || !zoneGood) return;
    Preferences chosen;
    chosen.name = name_->text().trimmed();
    chosen.theme = theme_->currentIndex();
    chosen.dateOrder = dates_->currentData().toString();
    chosen.snap = snap_->isChecked();
    chosen.cacheMegabytes = cache;
    chosen.save();
    session_.setWho(chosen.name);
    session_.setCacheSize(static_cast<std::size_t>(cache) << 20);
    if (zone != session_.study().setting("zone", "UTC"))
        session_.tryChange([&] { session_.report(setZone(session_.study(), zone)); });
    emit themeChosen(chosen.theme);
    QDialog::accept();
}

}  // namespace jacinth::app
