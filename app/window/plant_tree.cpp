#include "app/window/plant_tree.h"

#include <QMimeData>
#include <QPainter>
#include <QStyledItemDelegate>

#include "app/base/id_variant.h"
#include "app/base/sketch.h"
#include "app/base/ui.h"
#include "store/derived_catalog.h"
#include "work/derived/derived_expressions.h"

namespace jacinth::app {
namespace {

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
/// The tree hands a dragged tag on by its id.
class PlantTree : public QTreeWidget {
  protected:
    QStringList mimeTypes() const override { return {kTagMime}; }
    QMimeData* mimeData(const QList<QTreeWidgetItem*>& items) const override {
        if (items.isEmpty() || !items.first()->data(0, plant_role::kTag).toLongLong()) return nullptr;
        auto* mime = new QMimeData;
        mime->setData(kTagMime, QByteArray::number(items.first()->data(0, plant_role::kTag).toLongLong()));
        return mime;
    }
};

/// Says what it is when it is asked: texts for ten thousand tags would take longer than the tree.
class TagItem : public QTreeWidgetItem {
  public:
    TagItem(QTreeWidgetItem* asset, const Session& session, const Tag& tag)
        : QTreeWidgetItem(asset, {QString::fromStdString(tag.name)}), session_(session), id_(tag.id) {}
    QVariant data(int column, int role) const override {
        if (role != Qt::ToolTipRole) return QTreeWidgetItem::data(column, role);
        const Tag* tag = session_.tag(id_);
        const bool derived = QTreeWidgetItem::data(0, plant_role::kDerived).toBool();
        return tag ? plainTip(tipOf(session_.study(), *tag, derived)) : QString();
    }

  private:
    const Session& session_;
    TagId id_;
};

class TagDelegate : public QStyledItemDelegate {
  public:
    TagDelegate(Session& session, QTreeWidget* tree, Sketches sketches)
        : QStyledItemDelegate(tree), session_(session), tree_(tree), sketches_(std::move(sketches)) {}
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {200, 20}; }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& theme = session_.theme();
        const auto id = idFrom<TagId>(index.data(plant_role::kTag));
        const bool selected = option.state & QStyle::State_Selected;
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        if (selected)
            p->fillRect(QRect(0, option.rect.top(), tree_->viewport()->width(), option.rect.height()),
                        theme.softAccent);
        if (index.data(plant_role::kCount).isValid()) {
            paintGroup(p, option.rect, index);
            p->restore();
            return;
        }
        QFont font = uiFont();
        if (!id) font.setWeight(QFont::DemiBold);
        font.setItalic(index.data(plant_role::kDerived).toBool());
        p->setFont(font);
        p->setPen(theme.ink);
        const QRect r = option.rect;
        if (!id) {
            p->drawText(r.adjusted(2, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft, index.data().toString());
            p->restore();
            return;
        }
        const auto& shown = session_.view().shown();
        const bool on = std::find(shown.begin(), shown.end(), id) != shown.end();
        const QRectF box(r.left(), r.center().y() - 4, 9, 9);
        p->setPen(QPen(on ? session_.tagColour(id) : theme.second, 1));
        p->setBrush(on ? QBrush(session_.tagColour(id)) : QBrush(Qt::NoBrush));
        p->drawRoundedRect(box, 2, 2);
        const int wide = tree_->viewport()->width();
        p->setPen(theme.ink);
        p->drawText(
            QRect(r.left() + 16, r.top(), wide - r.left() - 92, r.height()), Qt::AlignVCenter | Qt::AlignLeft,
            p->fontMetrics().elidedText(index.data().toString(), Qt::ElideMiddle, wide - r.left() - 90));
        sketchTag(p, QRectF(wide - 72, r.top() + 3, 34, r.height() - 6), id);
        QFont small = uiFont();
        small.setPixelSize(10);
        p->setFont(small);
        p->setPen(theme.second);
        const Tag* tag = session_.tag(id);
        p->drawText(QRect(wide - 37, r.top(), 33, r.height()), Qt::AlignVCenter | Qt::AlignRight,
                    tag ? QString::fromStdString(tag->unit) : "");
        p->restore();
    }

  private:
    void paintGroup(QPainter* p, const QRect& r, const QModelIndex& index) const {
        const Theme& theme = session_.theme();
        const int wide = tree_->viewport()->width();
        p->setFont(uiFont());
        p->setPen(theme.ink);
        p->drawText(
            QRect(r.left() + 2, r.top(), wide - r.left() - 50, r.height()), Qt::AlignVCenter | Qt::AlignLeft,
            p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, wide - r.left() - 50));
        p->setPen(theme.second);
        p->drawText(QRect(wide - 48, r.top(), 44, r.height()), Qt::AlignVCenter | Qt::AlignRight,
                    index.data(plant_role::kCount).toString());
    }
    void sketchTag(QPainter* p, const QRectF& box, TagId id) const {
        paintSketch(p, box, sketches_.of(id), sketches_.view(), faded(session_.theme().second, 0.9));
    }
    Session& session_;
    QTreeWidget* tree_;
    Sketches sketches_;
};

}  // namespace

QTreeWidgetItem* addTagItem(QTreeWidgetItem* asset, const Session& session, const Tag& tag) {
    auto* item = new TagItem(asset, session, tag);
    item->setData(0, plant_role::kTag, toVariant(tag.id));
    item->setData(0, plant_role::kAsset, toVariant(tag.asset));
    return item;
}

QTreeWidget* makePlantTree(Session& session, Sketches sketches) {
    auto* tree = new PlantTree;
    tree->setDragEnabled(true);
    tree->setDragDropMode(QAbstractItemView::DragOnly);
    tree->setObjectName("plantTree");
    tree->setAccessibleName("Assets and tags");
    tree->setHeaderHidden(true);
    tree->setIndentation(10);
    tree->setUniformRowHeights(true);
    tree->setFrameShape(QFrame::NoFrame);
    tree->setItemDelegate(new TagDelegate(session, tree, std::move(sketches)));
    tree->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    tree->setContextMenuPolicy(Qt::CustomContextMenu);
    return tree;
}

}  // namespace jacinth::app
