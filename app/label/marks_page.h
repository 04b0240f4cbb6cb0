// Marks: stretches dragged over the traces, as brackets above them, named by a key of the label book.
#pragma once

#include "app/base/bench_page.h"
#include "app/label/evidence_panel.h"
#include "app/label/label_fields.h"
#include "app/label/label_list.h"
#include "app/plot/bracket_lanes.h"
#include "app/plot/time_plot.h"

#include <unordered_map>

class QSplitter;

namespace jacinth::app {

class MarksPage : public BenchPage {
    Q_OBJECT
  public:
    explicit MarksPage(Session& session);
    void entered() override;
    QString title() const override;
    QString pointerText() const override;
    TimePlot* plot() const { return plot_; }
    QTableView* list() const { return list_->table(); }
    EvidencePanel* evidence() const { return evidence_; }  ///< null until it is first shown
    bool showsEvidence() const { return evidence_ && !evidence_->isHidden(); }
    void showEvidence(bool on);
    const std::vector<SpanId>& chosen() const { return chosen_; }
    SpanId current() const { return chosen_.empty() ? SpanId() : chosen_.back(); }

    /// A new mark over a stretch, not named yet; it becomes the chosen one.
    void mark(Span span);
    /// Chooses a mark and brings it into view.
    void open(SpanId id);
    void choose(std::vector<SpanId> ids);

    // What keys and the menu do with the chosen marks.
    void name(const std::string& kind);
    void removeChosen();
    void splitChosen();  ///< at the cursor, else at the pointer
    void mergeChosen();
    void snapChosen();  ///< both edges to the nearest samples of the current tag
    void chooseAllShown();
    void step(int by);          ///< to the next or previous one in the list
    void nextUnnamed(int by);   ///< that is not named yet
    void holdEdge(bool start);  ///< arrows then move it, by samples
    void nudge(int samples);    ///< the whole marks
    void searchAlike();         ///< more like the chosen one

  signals:
    void bookAsked();
    void alikeAsked(SpanId example);

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    void build();
    void connectBrackets();
    void refresh() override;
    void fill();
    void rebuildPanes();
    void makeBrackets();
    void showMarks();
    void addMarks(TimeRange range);
    void pull(SpanId id, BracketLanes::Part part, Duration by);
    void moveEdge(int handle, Instant t);
    void stepEdge(int handle, int samples);
    void commitMoved(const QString& step);
    void band(TimeRange range, Qt::KeyboardModifiers modifiers);
    void clickBracket(SpanId id, Qt::KeyboardModifiers modifiers);
    bool takeKey(QKeyEvent* key, bool onPlot);
    std::vector<Span> chosenSpans() const;
    /// The sample `by` further than t, of the tag in hand; by seconds where it has none there.
    Instant sampleFrom(Instant t, int by) const;
    Instant snapped(Instant t) const;
    int paneOf(const Span& label) const;

    TimePlot* plot_;
    LabelList* list_;
    LabelFields* fields_;
    EvidencePanel* evidence_ = nullptr;
    QPushButton* evidenceButton_;
    QSplitter *split_, *beside_;
    std::vector<SpanId> chosen_;
    std::vector<Span> labels_;                        ///< of the study, as filled last
    std::unordered_map<SpanId, std::size_t> places_;  ///< of each in labels_
    std::vector<Bracket> brackets_;                   ///< of the asset in hand, none chosen
    std::vector<Span> moving_;                        ///< chosen marks while they are pulled
    bool stale_ = true;
};

}  // namespace jacinth::app
