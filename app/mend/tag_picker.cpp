#include "app/mend/tag_picker.h"

#include <algorithm>

#include "app/base/ui.h"

namespace jacinth::app {
namespace {

constexpr int kTagRole = Qt::UserRole;
constexpr int kHeight = 168;

/// 0 for tags of the asset, 1 for the same role elsewhere, 2 for the rest.
int nearness(const Tag& of, const Tag& other) {
    if (other.asset == of.asset) return 0;
    return other.role == of.role ? 1 : 2;
}

}  // namespace

TagPicker::TagPicker(Session& session, const QString& name) : session_(session) {
    filter_ = makeField(name + "Filter", "Filter tags");
    filter_->setPlaceholderText("Filter tags");
    list_ = new QListWidget;
    list_->setUniformItemSizes(true);
    list_->setObjectName(name);
    list_->setAccessibleName("Tags");
    list_->setFixedHeight(kHeight);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(filter_);
    column->addWidget(list_);
    connect(filter_, &QLineEdit::textEdited, this, &TagPicker::filter);
    connect(list_, &QListWidget::itemChanged, this, &TagPicker::changed);
}

void TagPicker::fill(TagId of, const std::vector<TagId>& alsoLeftOut) {
    const std::vector<TagId> before = chosen();
    const Tag* own = session_.tag(of);
    std::vector<std::pair<int, const Tag*>> tags;  // with how near they are, of ten thousand once each
    for (const Tag& t : session_.study().catalog().tags())
        if (t.kind != TagKind::State && t.id != of && std::ranges::count(alsoLeftOut, t.id) == 0)
            tags.emplace_back(own ? static_cast<int>(nearness(*own, t)) : 0, &t);
    std::stable_sort(tags.begin(), tags.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    const QSignalBlocker quiet(list_);
    list_->clear();
    for (const auto& [nearness, tag] : tags) {
        const Tag& t = *tag;
        const bool near = own && t.asset == own->asset;
        auto* item = new QListWidgetItem(QString::fromStdString(near ? t.name : t.path()));
        if (near) item->setToolTip(plainTip(QString::fromStdString(t.path())));  // others say it themselves
        item->setData(kTagRole, QVariant::fromValue<qint64>(t.id.number));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(std::ranges::count(before, t.id) ? Qt::Checked : Qt::Unchecked);
        list_->addItem(item);  // last: what is in a list tells it of each change
    }
    filter();
}

void TagPicker::setChosen(const std::vector<TagId>& tags) {
    const QSignalBlocker quiet(list_);
    for (int i = 0; i < list_->count(); ++i) {
        const TagId id(list_->item(i)->data(kTagRole).toLongLong());
        list_->item(i)->setCheckState(std::ranges::count(tags, id) ? Qt::Checked : Qt::Unchecked);
    }
    emit changed();
}

std::vector<TagId> TagPicker::chosen() const {
    std::vector<TagId> out;
    for (int i = 0; i < list_->count(); ++i)
        if (list_->item(i)->checkState() == Qt::Checked)
            out.emplace_back(list_->item(i)->data(kTagRole).toLongLong());
    return out;
}

/// A ticked tag stays in sight whatever is typed.
void TagPicker::filter() {
    const QString text = filter_->text().trimmed();
    for (int i = 0; i < list_->count(); ++i) {
        QListWidgetItem* item = list_->item(i);
        item->setHidden(item->checkState() != Qt::Checked && !text.isEmpty() &&
                        !item->toolTip().contains(text, Qt::CaseInsensitive) &&
                        !item->text().contains(text, Qt::CaseInsensitive));
    }
}

}  // namespace jacinth::app
