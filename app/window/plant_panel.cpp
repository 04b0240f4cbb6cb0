#include "app/window/plant_panel.h"

#include <QClipboard>
#include <QComboBox>
#include <QGuiApplication>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QTimer>

#include <fmt/format.h>

#include "app/base/id_variant.h"
#include "app/base/ui.h"
#include "app/plot/time_plot.h"
#include "app/window/derived_dialog.h"
#include "app/window/plant_tree.h"
#include "app/window/tags_dialog.h"
#include "store/derived_catalog.h"
#include "store/judgement.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::app {
namespace {

constexpr int kTagRole = plant_role::kTag, kAssetRole = plant_role::kAsset,
              kDerivedRole = plant_role::kDerived, kGroupRole = plant_role::kGroup,
              kCountRole = plant_role::kCount;
constexpr std::size_t kFewAssets = 40;  ///< groups are unfolded at first

}  // namespace

PlantPanel::PlantPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    build();
    followStudy();
    rebuild();
}

void PlantPanel::build() {
    setObjectName("plant");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(212);
    title_ = makeLabel("", "section");
    filter_ = makeField("tagFilter", "Filter tags");
    filter_->setPlaceholderText("Filter tags");
    filter_->setClearButtonEnabled(true);
    tree_ = makePlantTree(session_, {[this](TagId id) -> const std::vector<Summary>& { return sketch(id); },
                                     [this] { return sketchView_; }});
    tree_->installEventFilter(this);
    tree_->viewport()->installEventFilter(this);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 2, 4);
    column->setSpacing(6);
    column->addWidget(title_);
    auto* filterRow = new QHBoxLayout;
    filterRow->setContentsMargins(0, 0, 8, 0);
    filterRow->addWidget(filter_);
    column->addLayout(filterRow);
    by_ = makeChoice("plantBy", "Assets gathered by", {});
    only_ = makeChoice("plantOnly", "The group looked at", {});
    only_->setToolTip("One group alone: here, in Fleet, on the sheet, among alarms and in the overview");
    auto* groupRow = new QHBoxLayout;
    groupRow->setContentsMargins(0, 0, 8, 0);
    groupRow->setSpacing(4);
    groupRow->addWidget(by_, 1);
    groupRow->addWidget(only_, 1);
    column->addLayout(groupRow);
    column->addWidget(tree_, 1);
}

void PlantPanel::followStudy() {
    connect(by_, &QComboBox::activated, this, [this] {
        const QString fact = by_->currentData().toString();
        session_.view().setGrouping({fact.toStdString(), {}});
    });
    connect(only_, &QComboBox::activated, this, &PlantPanel::takeGrouping);
    connect(&session_.view(), &ViewState::groupingChanged, this, &PlantPanel::rebuild);
    connect(filter_, &QLineEdit::textChanged, this, &PlantPanel::applyFilter);
    connect(tree_, &QTreeWidget::currentItemChanged, this, [this] { choose(); });
    connect(tree_, &QTreeWidget::itemDoubleClicked, this, [this](QTreeWidgetItem* item) {
        if (item->data(0, kTagRole).toLongLong()) toggle(item);
    });
    connect(tree_, &QTreeWidget::customContextMenuRequested, this, &PlantPanel::menuAt);
    connect(&session_, &Session::studyChanged, this, &PlantPanel::rebuild);
    connect(&session_, &Session::themeChanged, tree_->viewport(), qOverload<>(&QWidget::update));
    const auto refresh = [this] {
        sketched_.clear();  // what was drawn stays until the new ones are there
        tree_->viewport()->update();
    };
    connect(&session_.view(), &ViewState::viewChanged, this, refresh);
    connect(&session_.view(), &ViewState::whichChanged, this, refresh);
    connect(&session_.view(), &ViewState::shownChanged, tree_->viewport(), qOverload<>(&QWidget::update));
    connect(&session_.view(), &ViewState::selectionChanged, this, &PlantPanel::follow);
}

PlantPanel::Unfolded PlantPanel::unfolded() const {
    Unfolded out;
    for (const auto& [id, item] : assetItems_)
        if (item->isExpanded()) out.assets.insert(id);
    for (const QTreeWidgetItem* group : groups_)
        if (group->isExpanded()) out.groups.insert(group->data(0, kGroupRole).toString().toStdString());
    return out;
}

std::string PlantPanel::contents() const {
    const Study& study = session_.study();
    const Grouping& grouping = session_.view().grouping();
    std::string out = study.plantName() + "\n" + grouping.fact + "\n" + grouping.only.value_or("\n");
    for (const Asset& a : study.catalog().assets())
        out += fmt::format("\n{}:{}{}", a.id, a.name, factsToJson(a.facts));
    for (const Tag& t : study.catalog().tags())
        out += fmt::format("\n{}:{}:{}:{}", t.id, t.asset, t.name, t.unit);
    for (const TagId id : study.derived().tags()) out += fmt::format("\n{}", id);
    return out;
}

/// Facts change, and an import can be undone: a filter that leaves nothing would empty every page.
bool PlantPanel::leaveGroupThatIsGone() {
    const Grouping grouping = session_.view().grouping();
    if (!grouping.only || !assetsIn(session_.study(), grouping).empty()) return false;
    emit session_.notified(QString("No asset is in the group %1 now; all are shown")
                               .arg(QString::fromStdString(groupTitle(grouping))));
    session_.view().setGrouping({grouping.fact, {}});
    return true;
}

void PlantPanel::rebuild() {
    if (leaveGroupThatIsGone()) return rebuild();
    // Every label changes the study: ten thousand items are made again only where one of them changed.
    std::string now = contents();
    if (now == contents_) {
        sketches_.clear();
        sketched_.clear();
        return tree_->viewport()->update();
    }
    contents_ = std::move(now);
    following_ = true;
    const Unfolded open = unfolded();
    const bool first = assets_.empty();
    title_->setText(QString::fromStdString(session_.study().plantName()));
    fillGrouping();
    sketches_.clear();
    sketched_.clear();
    assets_.clear(), groups_.clear(), assetItems_.clear(), tagItems_.clear();
    tree_->clear();
    const Catalog& catalog = session_.study().catalog();
    std::map<AssetId, std::vector<const Tag*>> tagsOf;
    for (const Tag& t : catalog.tags()) tagsOf[t.asset].push_back(&t);
    const Grouping& grouping = session_.view().grouping();
    const AssetGroups groups(session_.study(), grouping.fact);
    const bool unfoldGroups = first && catalog.assets().size() <= kFewAssets;
    for (const AssetGroups::Group& g : groups.all()) {
        if (grouping.only && *grouping.only != g.value) continue;
        QTreeWidgetItem* group = nullptr;
        if (!grouping.fact.empty()) {
            group = new QTreeWidgetItem(tree_, {QString::fromStdString(groups.nameOf(g))});
            group->setData(0, kGroupRole, QString::fromStdString(g.value));
            group->setData(0, kCountRole, QString::number(g.assets.size()));
            groups_.push_back(group);
        }
        for (const AssetId id : g.assets) addAsset(*catalog.asset(id), tagsOf[id], group);
        if (group) group->setExpanded(unfoldGroups || grouping.only || open.groups.contains(g.value));
    }
    for (const TagId id : session_.study().derived().tags())
        if (QTreeWidgetItem* item = itemOf(id)) item->setData(0, kDerivedRole, true);
    for (const auto& [id, item] : assetItems_)
        if (open.assets.contains(id)) item->setExpanded(true);
    following_ = false;
    follow();
    applyFilter();
}

void PlantPanel::addAsset(const Asset& asset, const std::vector<const Tag*>& tags, QTreeWidgetItem* group) {
    const QStringList name{QString::fromStdString(asset.name)};
    auto* item = group ? new QTreeWidgetItem(group, name) : new QTreeWidgetItem(tree_, name);
    item->setData(0, kAssetRole, toVariant(asset.id));
    assets_.push_back(item);
    assetItems_[asset.id] = item;
    for (const Tag* t : tags) {
        tagItems_[t->id] = addTagItem(item, session_, *t);
    }
}

/// The facts there are to gather by, and the groups of the one that is chosen.
void PlantPanel::fillGrouping() {
    const std::vector<std::string> facts = factsToGroupBy(session_.study());
    const Grouping& grouping = session_.view().grouping();
    by_->clear();
    by_->addItem("not grouped", QString());
    for (const std::string& fact : facts)
        by_->addItem("by " + QString::fromStdString(fact), QString::fromStdString(fact));
    if (!grouping.fact.empty() && by_->findData(QString::fromStdString(grouping.fact)) < 0)
        by_->addItem("by " + QString::fromStdString(grouping.fact), QString::fromStdString(grouping.fact));
    by_->setCurrentIndex(by_->findData(QString::fromStdString(grouping.fact)));
    by_->setVisible(by_->count() > 1);
    only_->clear();
    only_->setVisible(!grouping.fact.empty());
    if (grouping.fact.empty()) return;
    const AssetGroups groups(session_.study(), grouping.fact);
    only_->addItem("all");
    for (const AssetGroups::Group& g : groups.all()) {
        only_->addItem(QString::fromStdString(groups.nameOf(g)), QString::fromStdString(g.value));
        if (grouping.only == g.value) only_->setCurrentIndex(only_->count() - 1);
    }
}

void PlantPanel::takeGrouping() {
    Grouping grouping = session_.view().grouping();
    grouping.only.reset();
    if (only_->currentIndex() > 0) grouping.only = only_->currentData().toString().toStdString();
    session_.view().setGrouping(grouping);
    // What is looked at is one of them.
    const std::vector<AssetId> assets = assetsIn(session_.study(), grouping);
    if (!assets.empty() && std::find(assets.begin(), assets.end(), session_.view().asset()) == assets.end())
        session_.lookAt(assets.front());
}

QTreeWidgetItem* PlantPanel::itemOf(TagId tag) const {
    const auto found = tagItems_.find(tag);
    return found == tagItems_.end() ? nullptr : found->second;
}

QTreeWidgetItem* PlantPanel::itemOf(AssetId asset) const {
    const auto found = assetItems_.find(asset);
    return found == assetItems_.end() ? nullptr : found->second;
}

void PlantPanel::follow() {
    following_ = true;
    if (QTreeWidgetItem* item = itemOf(session_.view().asset())) {
        if (!item->isExpanded() && filter_->text().isEmpty())
            for (QTreeWidgetItem* other : assets_)
                if (other->isExpanded() || other == item) other->setExpanded(other == item);
        if (item->parent()) item->parent()->setExpanded(true);
        QTreeWidgetItem* tag = itemOf(session_.view().tag());
        tree_->setCurrentItem(tag ? tag : item);
    }
    following_ = false;
}

void PlantPanel::choose() {
    if (following_ || !tree_->currentItem()) return;
    const auto asset = idFrom<AssetId>(tree_->currentItem()->data(0, kAssetRole));
    if (!asset) return;  // a group
    const auto tag = idFrom<TagId>(tree_->currentItem()->data(0, kTagRole));
    if (asset != session_.view().asset()) return session_.lookAt(asset, tag);
    session_.view().select(asset, tag ? tag : session_.view().tag());
}

void PlantPanel::toggle(QTreeWidgetItem* item) {
    const auto id = idFrom<TagId>(item->data(0, kTagRole));
    std::vector<TagId> shown = session_.view().shown();
    const auto found = std::find(shown.begin(), shown.end(), id);
    if (found == shown.end())
        shown.push_back(id);
    else
        shown.erase(found);
    session_.view().setShown(std::move(shown));
}

void PlantPanel::menuAt(const QPoint& at) {
    QTreeWidgetItem* item = tree_->itemAt(at);
    const Tag* tag = item ? session_.tag(idFrom<TagId>(item->data(0, kTagRole))) : nullptr;
    if (!tag) return;
    QMenu menu(this);
    const QString path = QString::fromStdString(tag->path());
    menu.addAction("Show or hide\tSpace", this, [this, item] { toggle(item); });
    menu.addAction("Copy path", this, [path] {
        QGuiApplication::clipboard()->setText(QString::fromStdString(quotedPath(path.toStdString())));
    });
    menu.addAction("Copy role", this, [role = QString::fromStdString(tag->role)] {
        QGuiApplication::clipboard()->setText("@" + role);
    });
    menu.addAction("What it is…", this, [this, id = tag->id] {
        TagsDialog dialog(session_, id, this);
        dialog.exec();
    });
    if (!derivedText(session_.study(), tag->id).empty())
        menu.addAction("What it is made from…", this, [this, id = tag->id] {
            DerivedDialog dialog(session_, id, this);
            dialog.exec();
        });
    addLimitTags(menu, tag->role);
    menu.addAction("Mend this tag", this, [this] { session_.view().setBench(BenchId::Mend); });
    menu.exec(tree_->viewport()->mapToGlobal(at));
}

void PlantPanel::addLimitTags(QMenu& menu, const std::string& role) {
    for (const auto& [set, roles] : session_.study().judgement().limitNames()) {
        if (!roles.contains(role)) continue;
        menu.addAction(QString("Limits “%1” as tags").arg(QString::fromStdString(set)), this,
                       [this, name = set, role] {
                           session_.tryChange([&] {
                               const auto made = keepLimitTags(session_.study(), name, role);
                               if (session_.report(made)) session_.showToo(*made);
                           });
                       });
    }
}

void PlantPanel::applyFilter() {
    const QString words = filter_->text().trimmed();
    if (!words.isEmpty() && !beforeFilter_) beforeFilter_ = unfolded();
    if (words.isEmpty() && !beforeFilter_) return;
    std::set<QTreeWidgetItem*> fitting;
    for (QTreeWidgetItem* asset : assets_) {
        QTreeWidgetItem* group = asset->parent();
        const bool groupFits =
            group && !words.isEmpty() && group->text(0).contains(words, Qt::CaseInsensitive);
        if (filterAsset(asset, words, groupFits) && group) fitting.insert(group);
    }
    for (QTreeWidgetItem* group : groups_) {
        group->setHidden(!words.isEmpty() && !fitting.contains(group));
        if (!words.isEmpty()) group->setExpanded(fitting.contains(group));
    }
    if (words.isEmpty()) foldBack();
}

/// True where the asset or one of its tags has the words. An asset of a group that has them stays folded.
bool PlantPanel::filterAsset(QTreeWidgetItem* asset, const QString& words, bool groupFits) {
    bool any = false;
    for (int k = 0; k < asset->childCount(); ++k) {
        const bool fits =
            words.isEmpty() ||
            (asset->text(0) + "/" + asset->child(k)->text(0)).contains(words, Qt::CaseInsensitive);
        asset->child(k)->setHidden(!fits && !groupFits);
        any |= fits;
    }
    asset->setHidden(!any && !groupFits && asset->childCount() > 0);
    if (!words.isEmpty()) asset->setExpanded(any);
    return any || groupFits;
}

void PlantPanel::foldBack() {
    for (const auto& [id, item] : assetItems_)
        item->setExpanded(beforeFilter_->assets.contains(id) || id == session_.view().asset());
    QTreeWidgetItem* own = itemOf(session_.view().asset());
    for (QTreeWidgetItem* group : groups_) {
        const std::string value = group->data(0, kGroupRole).toString().toStdString();
        group->setExpanded(beforeFilter_->groups.contains(value) || (own && own->parent() == group));
    }
    beforeFilter_.reset();
    if (tree_->currentItem()) tree_->scrollToItem(tree_->currentItem());
}

bool PlantPanel::eventFilter(QObject* watched, QEvent* e) {
    if (watched == tree_ && e->type() == QEvent::KeyPress &&
        static_cast<QKeyEvent*>(e)->key() == Qt::Key_Space && tree_->currentItem() &&
        tree_->currentItem()->data(0, kTagRole).toLongLong()) {
        toggle(tree_->currentItem());
        return true;
    }
    if (watched == tree_->viewport() && e->type() == QEvent::MouseButtonPress) {
        auto* mouse = static_cast<QMouseEvent*>(e);
        QTreeWidgetItem* item = tree_->itemAt(mouse->pos());
        // A click on the square shows or hides; a click on the name selects.
        if (item && mouse->button() == Qt::LeftButton && item->data(0, kTagRole).toLongLong()) {
            const int left = tree_->visualItemRect(item).left();
            if (mouse->pos().x() >= left - 2 && mouse->pos().x() <= left + 12) {
                toggle(item);
                return true;
            }
        }
    }
    return QWidget::eventFilter(watched, e);
}

const std::vector<Summary>& PlantPanel::sketch(TagId id) {
    // Painting finds out which sketches are wanted; they are read together when it is done.
    if (sketched_.insert(id).second) {
        if (wanted_.empty()) QTimer::singleShot(0, this, &PlantPanel::askSketches);
        wanted_.push_back(id);
    }
    return sketches_[id];
}

void PlantPanel::askSketches() {
    session_.reader().ask(
        this, "sketches",
        [this, wanted = std::exchange(wanted_, {}), view = session_.view().view(),
         which = session_.view().which()](Study& study) -> BackgroundReader::Deliver {
            auto read = std::make_shared<std::map<TagId, std::vector<Summary>>>();
            for (const TagId id : wanted)
                if (const Tag* tag = study.catalog().tag(id))
                    (*read)[id] = study.columns(*tag, view, 40, which);
            return [this, read, view] {
                for (auto& [id, columns] : *read) sketches_[id] = std::move(columns);
                sketchView_ = view;
                tree_->viewport()->update();
            };
        },
        true);
}

}  // namespace jacinth::app
