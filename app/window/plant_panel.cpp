#include "app/window/plant_panel.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QKeyEvent>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QTimer>

#include "app/base/id_variant.h"
#include "app/base/sketch.h"
#include "app/base/ui.h"
#include "app/plot/time_plot.h"
#include "app/window/derived_dialog.h"
#include "app/window/tags_dialog.h"
#include "store/derived_catalog.h"
#include "store/judgement.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::app {
namespace {
constexpr int kTagRole = Qt::UserRole, kAssetRole = Qt::UserRole + 1, kDerivedRole = Qt::UserRole + 2;

/// What a tag is, and of a derived one what it is made from.
QString tipOf(const Study& study, const Tag& tag, bool derived) {
    QString out =
        QString("%1\n@%2 · %3")
            .arg(QString::fromStdString(tag.path()), QString::fromStdString(tag.role), tagKindName(tag.kind));
    if (!derived) return out;
    const std::string text = derivedText(study, tag.id);
    if (text.empty()) return out + "\ncalculated and kept";
    out += "\n= " + QString::fromStdString(text);
    const DerivedState state = study.derived().state(tag.id);
    if (!state.trouble.empty()) return out + "\nno samples: " + QString::fromStdString(state.trouble);
    return out + (state.at != Instant{}
                      ? "\ncalculated " + QString::fromStdString(study.zone().text(state.at))
                      : QString("\nbeing calculated"));
}
}  // namespace

/// The tree hands a dragged tag on by its id.
class PlantTree : public QTreeWidget {
  protected:
    QStringList mimeTypes() const override { return {kTagMime}; }
    QMimeData* mimeData(const QList<QTreeWidgetItem*>& items) const override {
        if (items.isEmpty() || !items.first()->data(0, kTagRole).toLongLong()) return nullptr;
        auto* mime = new QMimeData;
        mime->setData(kTagMime, QByteArray::number(items.first()->data(0, kTagRole).toLongLong()));
        return mime;
    }
};

class TagDelegate : public QStyledItemDelegate {
  public:
    explicit TagDelegate(PlantPanel& panel) : QStyledItemDelegate(&panel), panel_(panel) {}
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {200, 20}; }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& theme = panel_.session_.theme();
        const auto id = idFrom<TagId>(index.data(kTagRole));
        const bool selected = option.state & QStyle::State_Selected;
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        if (selected)
            p->fillRect(QRect(0, option.rect.top(), panel_.tree_->viewport()->width(), option.rect.height()),
                        theme.softAccent);
        QFont font = uiFont();
        if (!id) font.setWeight(QFont::DemiBold);
        font.setItalic(index.data(kDerivedRole).toBool());
        p->setFont(font);
        p->setPen(theme.ink);
        const QRect r = option.rect;
        if (!id) {
            p->drawText(r.adjusted(2, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft, index.data().toString());
            p->restore();
            return;
        }
        const auto& shown = panel_.session_.view().shown();
        const bool on = std::find(shown.begin(), shown.end(), id) != shown.end();
        const QRectF box(r.left(), r.center().y() - 4, 9, 9);
        p->setPen(QPen(on ? panel_.session_.tagColour(id) : theme.second, 1));
        p->setBrush(on ? QBrush(panel_.session_.tagColour(id)) : QBrush(Qt::NoBrush));
        p->drawRoundedRect(box, 2, 2);
        const int wide = panel_.tree_->viewport()->width();
        p->setPen(theme.ink);
        p->drawText(
            QRect(r.left() + 16, r.top(), wide - r.left() - 92, r.height()), Qt::AlignVCenter | Qt::AlignLeft,
            p->fontMetrics().elidedText(index.data().toString(), Qt::ElideMiddle, wide - r.left() - 90));
        sketchTag(p, QRectF(wide - 72, r.top() + 3, 34, r.height() - 6), id);
        QFont small = uiFont();
        small.setPixelSize(10);
        p->setFont(small);
        p->setPen(theme.second);
        const Tag* tag = panel_.session_.tag(id);
        p->drawText(QRect(wide - 37, r.top(), 33, r.height()), Qt::AlignVCenter | Qt::AlignRight,
                    tag ? QString::fromStdString(tag->unit) : "");
        p->restore();
    }

  private:
    void sketchTag(QPainter* p, const QRectF& box, TagId id) const {
        paintSketch(p, box, panel_.sketch(id), panel_.sketchView_,
                    faded(panel_.session_.theme().second, 0.9));
    }
    PlantPanel& panel_;
};

PlantPanel::PlantPanel(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("plant");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(212);
    title_ = makeLabel("", "section");
    filter_ = makeField("tagFilter", "Filter tags");
    filter_->setPlaceholderText("Filter tags");
    filter_->setClearButtonEnabled(true);
    tree_ = new PlantTree;
    tree_->setDragEnabled(true);
    tree_->setDragDropMode(QAbstractItemView::DragOnly);
    tree_->setObjectName("plantTree");
    tree_->setAccessibleName("Assets and tags");
    tree_->setHeaderHidden(true);
    tree_->setIndentation(10);
    tree_->setFrameShape(QFrame::NoFrame);
    tree_->setItemDelegate(new TagDelegate(*this));
    tree_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    tree_->setContextMenuPolicy(Qt::CustomContextMenu);
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
    column->addWidget(tree_, 1);
    connect(filter_, &QLineEdit::textChanged, this, &PlantPanel::applyFilter);
    connect(tree_, &QTreeWidget::currentItemChanged, this, [this] { choose(); });
    connect(tree_, &QTreeWidget::itemDoubleClicked, this, [this](QTreeWidgetItem* item) {
        if (item->data(0, kTagRole).toLongLong()) toggle(item);
    });
    connect(tree_, &QTreeWidget::customContextMenuRequested, this, &PlantPanel::menuAt);
    connect(&session, &Session::studyChanged, this, &PlantPanel::rebuild);
    connect(&session, &Session::themeChanged, tree_->viewport(), qOverload<>(&QWidget::update));
    const auto refresh = [this] {
        sketched_.clear();  // what was drawn stays until the new ones are there
        tree_->viewport()->update();
    };
    connect(&session.view(), &ViewState::viewChanged, this, refresh);
    connect(&session.view(), &ViewState::whichChanged, this, refresh);
    connect(&session.view(), &ViewState::shownChanged, tree_->viewport(), qOverload<>(&QWidget::update));
    connect(&session.view(), &ViewState::selectionChanged, this, &PlantPanel::follow);
    rebuild();
}

std::set<AssetId> PlantPanel::unfolded() const {
    std::set<AssetId> out;
    for (int i = 0; i < tree_->topLevelItemCount(); ++i)
        if (tree_->topLevelItem(i)->isExpanded())
            out.insert(idFrom<AssetId>(tree_->topLevelItem(i)->data(0, kAssetRole)));
    return out;
}

void PlantPanel::rebuild() {
    following_ = true;
    const std::set<AssetId> open = unfolded();
    title_->setText(QString::fromStdString(session_.study().plantName()));
    sketches_.clear();
    sketched_.clear();
    tree_->clear();
    const std::vector<TagId> worked = session_.study().derived().tags();
    const std::set<TagId> derived(worked.begin(), worked.end());
    std::map<AssetId, std::vector<Tag>> tagsOf;
    for (const Tag& t : session_.study().catalog().tags()) tagsOf[t.asset].push_back(t);
    for (const Asset& a : session_.study().catalog().assets()) {
        auto* item = new QTreeWidgetItem(tree_, {QString::fromStdString(a.name)});
        item->setData(0, kAssetRole, toVariant(a.id));
        for (const Tag& t : tagsOf[a.id]) {
            auto* child = new QTreeWidgetItem(item, {QString::fromStdString(t.name)});
            child->setData(0, kTagRole, toVariant(t.id));
            child->setData(0, kAssetRole, toVariant(a.id));
            child->setToolTip(0, plainTip(tipOf(session_.study(), t, derived.contains(t.id))));
            child->setData(0, kDerivedRole, derived.contains(t.id));
        }
        item->setExpanded(open.contains(a.id));
    }
    following_ = false;
    follow();
    applyFilter();
}

QTreeWidgetItem* PlantPanel::itemOf(TagId tag) const {
    for (int i = 0; i < tree_->topLevelItemCount(); ++i)
        for (int k = 0; k < tree_->topLevelItem(i)->childCount(); ++k)
            if (idFrom<TagId>(tree_->topLevelItem(i)->child(k)->data(0, kTagRole)) == tag)
                return tree_->topLevelItem(i)->child(k);
    return nullptr;
}

void PlantPanel::follow() {
    following_ = true;
    for (int i = 0; i < tree_->topLevelItemCount(); ++i) {
        QTreeWidgetItem* item = tree_->topLevelItem(i);
        if (idFrom<AssetId>(item->data(0, kAssetRole)) != session_.view().asset()) continue;
        if (!item->isExpanded() && filter_->text().isEmpty()) {
            for (int k = 0; k < tree_->topLevelItemCount(); ++k) tree_->topLevelItem(k)->setExpanded(k == i);
        }
        QTreeWidgetItem* tag = itemOf(session_.view().tag());
        tree_->setCurrentItem(tag ? tag : item);
    }
    following_ = false;
}

void PlantPanel::choose() {
    if (following_ || !tree_->currentItem()) return;
    const auto asset = idFrom<AssetId>(tree_->currentItem()->data(0, kAssetRole));
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
    for (int i = 0; i < tree_->topLevelItemCount(); ++i) {
        QTreeWidgetItem* asset = tree_->topLevelItem(i);
        bool any = false;
        for (int k = 0; k < asset->childCount(); ++k) {
            const bool fits =
                words.isEmpty() ||
                (asset->text(0) + "/" + asset->child(k)->text(0)).contains(words, Qt::CaseInsensitive);
            asset->child(k)->setHidden(!fits);
            any |= fits;
        }
        asset->setHidden(!any && asset->childCount() > 0);
        if (!words.isEmpty()) asset->setExpanded(any);
    }
    if (words.isEmpty() && beforeFilter_) foldBack();
}

void PlantPanel::foldBack() {
    for (int i = 0; i < tree_->topLevelItemCount(); ++i) {
        QTreeWidgetItem* item = tree_->topLevelItem(i);
        const auto asset = idFrom<AssetId>(item->data(0, kAssetRole));
        item->setExpanded(beforeFilter_->contains(asset) || asset == session_.view().asset());
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
