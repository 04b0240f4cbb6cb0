// The open study, its changes, and long work beside the interface thread.
#pragma once

#include <QObject>
#include <QString>
#include <QThreadPool>
#include <QTimer>
#include <atomic>
#include <functional>
#include <memory>

#include "app/base/background_reader.h"
#include "app/base/theme.h"
#include "app/base/view_state.h"
#include "core/base/progress.h"
#include "store/history.h"

namespace jacinth::app {

/// What a tag dragged from the plant panel carries: its id as decimal text.
inline constexpr const char* kTagMime = "application/x-jacinth-tag";

/// What long work is handed: a connection of its own, and a way to say how far it got. `progress` returns
/// false when the user has cancelled.
struct JobContext {
    Study& study;
    Progress progress;
};

class Session : public QObject {
    Q_OBJECT
  public:
    Session(std::unique_ptr<Study> study, Theme theme, QObject* parent = nullptr);
    ~Session() override;

    Study& study() { return *study_; }
    const Study& study() const { return *study_; }
    ViewState& view() { return *view_; }
    BackgroundReader& reader() { return *reader_; }
    const Theme& theme() const { return theme_; }
    void setTheme(const Theme& theme);
    const Zone& zone() const { return zone_; }

    /// Runs `work` on another thread with a read-only study, or one that writes; then `done`, which it
    /// returns, here. `work` must not touch `owner`, whom the job serves: when that goes the job is
    /// cancelled, and neither `ended` nor `done` is called: work that goes on when its dialog closes serves
    /// the session. A newer job of the same owner and name cancels the older, whose `done` is not called; of
    /// jobs that write, one of the same name whosever it is. Errors, and what `work` throws, are reported to
    /// the user. `ended` is called in any case: done, failed, cancelled
    /// or replaced by a newer job, before `done`.
    void runJob(QObject* owner, const QString& name, const QString& saying,
                std::function<std::function<void()>(JobContext&)> work, bool writes = false,
                const std::function<void()>& ended = {});
    void cancelJobs();                  ///< of everybody, as the user asks for in the status bar
    void cancelJobsOf(QObject* owner);  ///< that serve this page or dialog, and nothing else
    bool busy() const { return running_ > 0 || !reader_->idle(); }
    /// Who changes things from now on, here and in jobs.
    void setWho(const QString& who);
    void setCacheSize(std::size_t bytes);
    /// Takes notice of what another program has written since; asked twice a second by itself.
    void lookForChanges();

    /// Announces that the study holds something else now. Derived tags that are stale by it are
    /// recalculated in the background, and announced when they are there.
    void announceChange();
    void recalculateDerived();
    /// Runs a change and announces it; a failure is reported to the user.
    bool tryChange(const std::function<void()>& work);
    /// Shows the error of a result to the user, unless the user stopped the work; true where there is a
    /// value.
    template <typename T>
    bool report(const Result<T>& result) {
        if (!result && !result.error().isCancelled())
            emit failed(QString::fromStdString(result.error().message));
        return static_cast<bool>(result);
    }
    /// Undoes the last step. One that another program made is only undone with `alsoOfOthers`; without it
    /// stepOfAnother is emitted instead.
    /// Where the last change is an import, importIsLast is emitted instead, unless the step before is meant.
    void undo(bool alsoOfOthers = false, bool pastImports = false);
    void redo(bool alsoOfOthers = false);
    /// Turns to another asset (and a tag of it; 0 for the one in the same role): the tags shown become those
    /// in the same roles there.
    void lookAt(AssetId asset, TagId tag = {});
    /// Shows these tags as well, as far as they are on the current asset.
    void showToo(const std::vector<TagId>& tags);
    void saveView();
    void restoreView();

    QColor tagColour(TagId tag) const;
    const Tag* tag(TagId id) const { return study_->catalog().tag(id); }

  signals:
    void studyChanged();
    void themeChanged();
    void failed(const QString& message);
    void notified(const QString& message);
    /// Another program has replaced, moved or removed the file; said once.
    void fileReplaced();
    void fileRestored();  ///< it is back at its place
    void jobProgress(const QString& saying, double share);
    void jobsDone();
    /// Undo does not take back the import that is the last change; `before` names the step that it would
    /// undo past it, where there is one.
    void importIsLast(const QString& import, const QString& before);
    void stepOfAnother(const QString& name, const QString& who, bool undoing);

  private:
    void takeStep(bool undoing, const std::optional<UndoableStep>& step, History::Imports imports);
    std::size_t colourOfRole(const std::string& role) const;
    std::unique_ptr<Study> study_;
    Theme theme_;
    ViewState* view_;
    BackgroundReader* reader_;
    Zone zone_;
    QTimer* idle_;  ///< runs when no job does
    /// Jobs of this study alone: closing one window must not wait for the work of another. A job mostly waits
    /// (for the file, for calculations that all cores share), so there may be more of them than cores.
    QThreadPool jobThreads_;
    struct Job {
        const QObject* owner;  ///< only compared, never used: it may be gone
        QString name;
        bool writes;
        std::shared_ptr<std::atomic<bool>> cancelled;
    };
    std::vector<Job> jobs_;  ///< that have not ended
    std::atomic<int> running_{0};
    bool replaced_ = false;  ///< fileReplaced was emitted
    int writing_ = 0;        ///< jobs that write: they say themselves when there is something new
};

}  // namespace jacinth::app
