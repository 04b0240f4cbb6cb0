#include "app/base/asset_choice.h"

#include <QSignalBlocker>
#include <algorithm>

#include "app/base/id_variant.h"
#include "work/base/asset_groups.h"

namespace jacinth::app {
namespace {

bool standsAlready(const QComboBox* box, const std::vector<Asset>& assets, int from) {
    if (box->count() != from + static_cast<int>(assets.size())) return false;
    for (std::size_t i = 0; i < assets.size(); ++i) {
        const int item = from + static_cast<int>(i);
        if (box->itemData(item) != toVariant(assets[i].id) ||
            box->itemText(item) != QString::fromStdString(assets[i].name))
            return false;
    }
    return true;
}

}  // namespace

std::vector<Asset> assetsInOrder(Session& session) {
    const std::string& fact = session.view().grouping().fact;
    std::vector<Asset> out = session.study().catalog().assets();
    if (fact.empty()) return out;
    const AssetGroups groups(session.study(), fact);
    std::stable_sort(out.begin(), out.end(),
                     [&](const Asset& a, const Asset& b) { return groups.isBefore(a.id, b.id); });
    return out;
}

void fillAssetChoice(QComboBox* box, Session& session, int from) {
    const std::vector<Asset> assets = assetsInOrder(session);
    if (standsAlready(box, assets, from)) return;
    const QSignalBlocker quiet(box);
    const int chosen = box->currentIndex();
    const QVariant before = box->currentData();
    // As wide as some names, so that not each of a thousand is measured.
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(12);
    while (box->count() > from) box->removeItem(box->count() - 1);
    for (const Asset& a : assets) box->addItem(QString::fromStdString(a.name), toVariant(a.id));
    box->setCurrentIndex(chosen >= 0 && chosen < from ? chosen : std::max(0, box->findData(before)));
}

QString fleetWords(Session& session, const QString& whole) {
    const Grouping& grouping = session.view().grouping();
    return grouping.only ? QString::fromStdString(groupTitle(grouping)) : whole;
}

void nameFleet(QComboBox* box, int item, Session& session, const QString& whole) {
    box->setItemText(item, fleetWords(session, whole));
}

}  // namespace jacinth::app
