// The fields that say how golden limits are made.
#pragma once

#include "app/base/time_field.h"
#include "app/base/ui.h"
#include "app/language/expression_editor.h"
#include "store/judgement.h"
#include "work/limits/screening.h"

class QCheckBox;

namespace jacinth::app {

class LimitsForm : public QWidget {
    Q_OBJECT
  public:
    explicit LimitsForm(Session& session);
    /// Fills what the user has not touched with what is proposed for this track.
    void propose(TrackId track);
    /// From a set on record: what it was made with.
    void take(const LimitSet& set);

    struct Request {
        std::string name, forRuns;
        std::vector<std::string> roles;
        LimitSpec spec;
        ScreenSpec screen;
        Instant validFrom = kNoInstant;
    };
    /// What the fields say; wrong ones are marked, and there is nothing.
    std::optional<Request> request();
    /// As request(), without marking: what a picture can be drawn with at once.
    LimitSpec specOr(const LimitSpec& otherwise);
    std::vector<std::string> roles() const { return rolesIn(tags_->text()); }
    void setRoles(const std::vector<std::string>& roles);
    bool rolesTouched() const { return rolesTouched_; }
    void showTagsError(const QString& message) { markWrong(tags_, !message.isEmpty(), message); }

  signals:
    void moreShown(bool on);  ///< it takes more room now

  private:
    void buildFields();
    void buildMore(QVBoxLayout* to);
    void show_(const LimitSpec& spec);
    void showMethodFields();
    std::optional<LimitSpec> spec();
    bool readMethod(LimitSpec& spec);
    bool readScale(LimitSpec& spec);

    Session& session_;
    QLineEdit *tags_, *every_, *k_, *q_, *coverage_, *confidence_, *smooth_, *slack_, *least_, *ignore_,
        *join_, *name_;
    MomentField* validFrom_;
    QComboBox *method_, *lineUp_, *indicator_;
    ExpressionEditor* forRuns_;
    QWidget *kRow_, *qRow_, *toleranceRow_, *indicatorRow_, *more_;
    QPushButton* moreButton_;
    QCheckBox* leaveOut_;
    bool rolesTouched_ = false, specTouched_ = false;
    TrackId track_;
};

}  // namespace jacinth::app
