// Assets and tags: filter, colour of what is shown, a small sketch of each over the time in view, unit.
#pragma once

#include <QTreeWidget>
#include <map>
#include <optional>
#include <set>
#include <vector>

#include "app/base/session.h"

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

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    friend class TagDelegate;
    void rebuild();
    void applyFilter();
    void foldBack();  ///< what the filter unfolded, but for the asset in view
    std::set<AssetId> unfolded() const;
    void follow();  ///< the shared selection
    void choose();  ///< the tree's selection becomes the shared one
    void toggle(QTreeWidgetItem* item);
    void menuAt(const QPoint& at);
    void addLimitTags(QMenu& menu, const std::string& role);
    const std::vector<Summary>& sketch(TagId tag);

    Session& session_;
    QLabel* title_;
    QLineEdit* filter_;
    QTreeWidget* tree_;
    std::map<TagId, std::vector<Summary>> sketches_;
    TimeRange sketchView_;       ///< that the sketches are of
    std::set<TagId> sketched_;   ///< tags whose sketch is there or on its way
    std::vector<TagId> wanted_;  ///< tags whose sketch is to be asked for
    void askSketches();
    bool following_ = false;
    std::optional<std::set<AssetId>> beforeFilter_;  ///< those unfolded when the filter had no words yet
};

}  // namespace jacinth::app
