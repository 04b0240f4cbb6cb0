// What all benches share: the time in view, the cursors, the selection, which data is shown. And the way
// back.
#pragma once

#include <QObject>
#include <deque>
#include <optional>
#include <vector>

#include "store/study.h"
#include "work/base/asset_groups.h"

namespace jacinth::app {

enum class BenchId { Survey, Mend, Screen, Label, Prove };
inline constexpr int kBenches = 5;
/// The view of a study without a record: the first day of 1970.
inline constexpr TimeRange kNoRecord{Instant(), Instant(kDay)};

class ViewState : public QObject {
    Q_OBJECT
  public:
    explicit ViewState(QObject* parent = nullptr) : QObject(parent) {}

    TimeRange record() const { return record_; }
    TimeRange view() const { return view_; }
    std::optional<Instant> cursor(int which) const { return cursors_[static_cast<std::size_t>(which)]; }
    AssetId asset() const { return asset_; }
    TagId tag() const { return tag_; }
    SpanId run() const { return run_; }
    Which which() const { return which_; }
    BenchId bench() const { return bench_; }
    const std::vector<TagId>& shown() const { return shown_; }
    /// Panes as the user arranged them; tags that are shown and in none stand by their unit (see
    /// pane_layout).
    struct ArrangedPane {
        std::vector<TagId> tags;
        bool folded = false;
        bool operator==(const ArrangedPane&) const = default;
    };
    const std::vector<ArrangedPane>& arrangement() const { return arrangement_; }

    /// What is laid over the traces of mended tags on every bench, beside the data that is shown.
    struct LaidOver {
        bool other = false;   ///< the other data: as logged over mended, mended over as logged
        bool change = false;  ///< what mending changed, in a pane of its own
        bool operator==(const LaidOver&) const = default;
    };
    LaidOver laidOver() const { return laidOver_; }
    void setLaidOver(LaidOver laidOver);

    /// By what the plant's assets are gathered on every bench, and which group is looked at alone.
    const Grouping& grouping() const { return grouping_; }
    void setGrouping(const Grouping& grouping);

    void setRecord(TimeRange record);
    /// Moves the view; kept inside the record with some margin, never shorter than a second. `remember` makes
    /// it a place to come back to.
    void setView(TimeRange view, bool remember = true);
    void goTo(Instant from, Instant to);  ///< with a margin before and after
    void jumpTo(TimeRange view);          ///< a place of its own to come back to, however soon after the last
    void setCursor(int which, std::optional<Instant> t);
    void select(AssetId asset, TagId tag);
    void selectRun(SpanId run);
    void setWhich(Which which);
    void setBench(BenchId bench);
    void setShown(std::vector<TagId> tags);
    void setArrangement(std::vector<ArrangedPane> panes);
    bool canGoBack() const { return place_ > 0; }
    bool canGoForward() const { return place_ + 1 < static_cast<int>(places_.size()); }
    void goBack() { revisit(place_ - 1); }
    void goForward() { revisit(place_ + 1); }

  signals:
    void viewChanged();
    void cursorChanged();
    void selectionChanged();
    void runChanged();
    void whichChanged();
    void laidOverChanged();
    void groupingChanged();
    void benchChanged();
    void shownChanged();

  private:
    struct Place {
        TimeRange view;
        BenchId bench;
        bool operator==(const Place&) const = default;
    };
    void remember();
    void revisit(int place);

    TimeRange record_ = kNoRecord, view_ = kNoRecord;
    std::array<std::optional<Instant>, 2> cursors_;
    AssetId asset_;
    TagId tag_;
    SpanId run_;
    Which which_ = Which::Mended;
    LaidOver laidOver_;
    Grouping grouping_;
    BenchId bench_ = BenchId::Survey;
    std::vector<TagId> shown_;
    std::vector<ArrangedPane> arrangement_;
    std::vector<Place> places_;
    int place_ = -1;
    bool revisiting_ = false;
    std::int64_t rememberedAt_ = 0;
};

}  // namespace jacinth::app
