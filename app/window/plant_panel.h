// Assets and tags, gathered by a fact of the assets: filter, colour of what is shown, a small sketch of each
// over the time in view, unit.
#pragma once

#include <QTreeWidget>
#include <map>
#include <optional>
#include <set>
#include <vector>

#include "app/base/session.h"

class QComboBox;
class QLineEdit;
class QLabel;
class QMenu;

namespace jacinth::app {

class PlantPanel : public QWidget {
    Q_OBJECT
  public:
    explicit PlantPanel(Session& session, QWidget* parent = nullptr);
    QTreeWidget* tree() const { return tree_; }
    QLineEdit* filter() const { return filter_; }
    QTreeWidgetItem* itemOf(TagId tag) const;
    QTreeWidgetItem* itemOf(AssetId asset) const;

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    /// What is unfolded in the tree.
    struct Unfolded {
        std::set<AssetId> assets;
        std::set<std::string> groups;  ///< by value
    };
    void build();
    void followStudy();
    void rebuild();
    bool leaveGroupThatIsGone();
    std::string contents() const;  ///< all that the tree shows: it is built again only where this changed
    void addAsset(const Asset& asset, const std::vector<const Tag*>& tags, QTreeWidgetItem* group);
    void fillGrouping();
    void takeGrouping();
    void applyFilter();
    bool filterAsset(QTreeWidgetItem* asset, const QString& words, bool groupFits);
    void foldBack();  ///< what the filter unfolded, but for the asset in view
    Unfolded unfolded() const;
    void follow();  ///< the shared selection
    void choose();  ///< the tree's selection becomes the shared one
    void toggle(QTreeWidgetItem* item);
    void menuAt(const QPoint& at);
    void addLimitTags(QMenu& menu, const std::string& role);
    const std::vector<Summary>& sketch(TagId tag);

    Session& session_;
    QLabel* title_;
    QLineEdit* filter_;
    QComboBox *by_, *only_;  ///< the fact that assets are gathered by, and the one group looked at
    QTreeWidget* tree_;
    std::vector<QTreeWidgetItem*> assets_, groups_;  ///< in the order of the tree
    std::map<AssetId, QTreeWidgetItem*> assetItems_;
    std::map<TagId, QTreeWidgetItem*> tagItems_;
    std::string contents_;
    std::map<TagId, std::vector<Summary>> sketches_;
    TimeRange sketchView_;       ///< that the sketches are of
    std::set<TagId> sketched_;   ///< tags whose sketch is there or on its way
    std::vector<TagId> wanted_;  ///< tags whose sketch is to be asked for
    void askSketches();
    bool following_ = false;
    std::optional<Unfolded> beforeFilter_;  ///< those unfolded when the filter had no words yet
};

}  // namespace jacinth::app
