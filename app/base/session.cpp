#include "app/base/session.h"

#include <QElapsedTimer>
#include <QPointer>
#include <QTimer>
#include <QtConcurrent>
#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/allocation.h"
#include "store/derived_catalog.h"
#include "store/history.h"
#include "store/json_body.h"
#include "store/sample_store.h"
#include "work/base/log.h"
#include "work/derived/derived_refresh.h"

namespace jacinth::app {
namespace {

/// A group that is not there any more is not looked at alone: nothing would be shown.
Grouping groupingFrom(const Study& study, JsonBody& body) {
    Grouping out{body.text("groupedBy"), {}};
    if (out.fact.empty() || !body.has("onlyGroup")) return out;
    out.only = body.text("onlyGroup");
    if (assetsIn(study, out).empty()) out.only.reset();
    return out;
}

// A view lies between the years 1678 and 2261, with room to calculate around it.
constexpr Instant kEarliest(Duration::min() / 2), kLatest(Duration::max() / 2);

constexpr int kIdle = 1000;  ///< ms after the last job: what it worked with goes back to the system
constexpr int kMostJobsAtOnce = 8;

/// Where the index of the samples is damaged, the record is unknown: the window shows what else there is.
TimeRange recordOf(const Study& study) {
    try {
        return study.record();
    } catch (const StoreError&) {
        return {};
    }
}
}  // namespace

Session::Session(std::unique_ptr<Study> study, Theme theme, QObject* parent)
    : QObject(parent),
      study_(std::move(study)),
      theme_(theme),
      view_(new ViewState(this)),
      reader_(new BackgroundReader(study_->path(), study_->fileIdentity(), this)),
      zone_(study_->zone()) {
    jobThreads_.setMaxThreadCount(kMostJobsAtOnce);
    view_->setRecord(recordOf(*study_));
    connect(reader_, &BackgroundReader::failed, this, &Session::failed);
    connect(this, &Session::failed, this,
            [](const QString& message) { log(LogLevel::Warning, message.toStdString()); });
    connect(this, &Session::notified, this,
            [](const QString& message) { log(LogLevel::Info, message.toStdString()); });
    log(LogLevel::Info, "open " + study_->path());
    idle_ = new QTimer(this);
    idle_->setSingleShot(true);
    idle_->setInterval(kIdle);
    connect(idle_, &QTimer::timeout, this, [this] {
        if (running_ == 0) (void)QtConcurrent::run(&jobThreads_, giveBackFreedMemory);
    });
    auto* watch = new QTimer(this);
    watch->setInterval(500);
    connect(watch, &QTimer::timeout, this, &Session::lookForChanges);
    watch->start();
}

Session::~Session() {
    cancelJobs();
    delete reader_;  // before the study: its thread must not outlive what it reads for
    reader_ = nullptr;
    jobThreads_.waitForDone();
}

void Session::setTheme(const Theme& theme) {
    theme_ = theme;
    applyTheme(theme_);
    emit themeChanged();
}

void Session::runJob(QObject* owner, const QString& name, const QString& saying,
                     std::function<std::function<void()>(JobContext&)> work, bool writes,
                     const std::function<void()>& ended) {
    for (const Job& older : jobs_)
        if (older.name == name && (older.owner == owner || (writes && older.writes)))
            older.cancelled->store(true);
    auto cancelled = std::make_shared<std::atomic<bool>>(false);
    jobs_.push_back({owner, name, writes, cancelled});
    ++running_;
    idle_->stop();
    writing_ += writes;
    const std::string path = study_->path(), identity = study_->fileIdentity(), who = study_->who();
    auto* guard = this;
    const QPointer<QObject> alive(owner);
    if (owner != this) connect(owner, &QObject::destroyed, this, [cancelled] { cancelled->store(true); });
    (void)QtConcurrent::run(&jobThreads_, [=, work = std::move(work)] {
        std::function<void()> done;
        QString error;
        QElapsedTimer timer;
        timer.start();
        try {
            auto opened = Study::open(path, !writes);
            if (!opened) {
                error = QString::fromStdString(opened.error().message);
            } else if ((*opened)->fileIdentity() != identity) {
                error = kAnotherFile;
            } else if (writes && (*opened)->readOnly()) {
                error = "The study cannot be written.";
            } else {
                (*opened)->setWho(who);
                JobContext context{
                    **opened, [guard, saying, cancelled](double share) {
                        if (!cancelled->load())
                            QMetaObject::invokeMethod(
                                guard, [guard, saying, share] { emit guard->jobProgress(saying, share); },
                                Qt::QueuedConnection);
                        return !cancelled->load();
                    }};
                done = work(context);
            }
        } catch (const std::exception& e) {
            error = e.what();
        } catch (...) {
            error = "The work failed for an unknown reason.";
        }
        log(LogLevel::Debug, QString("%1: %2 ms%3")
                                 .arg(name)
                                 .arg(timer.elapsed())
                                 .arg(cancelled->load() ? ", cancelled" : "")
                                 .toStdString());
        QMetaObject::invokeMethod(
            guard,
            [=] {
                const bool last = --guard->running_ == 0;
                guard->writing_ -= writes;
                std::erase_if(guard->jobs_, [&](const Job& j) { return j.cancelled == cancelled; });
                if (alive && ended) ended();
                if (!alive) {
                    // Nobody is left to show the result; what was written is there all the same.
                    if (!error.isEmpty()) emit guard->failed(error);
                    if (writes) {
                        guard->study_->refresh();
                        guard->announceChange();
                    }
                } else if (!cancelled->load() || writes) {
                    if (!error.isEmpty())
                        emit guard->failed(error);
                    else if (done)
                        done();
                }
                if (last) {
                    guard->idle_->start();
                    emit guard->jobsDone();
                }
            },
            Qt::QueuedConnection);
    });
}

void Session::cancelJobs() {
    for (const Job& job : jobs_) job.cancelled->store(true);
}

void Session::cancelJobsOf(QObject* owner) {
    for (const Job& job : jobs_)
        if (job.owner == owner) job.cancelled->store(true);
}

void Session::announceChange() {
    zone_ = study_->zone();
    view_->setRecord(recordOf(*study_));
    emit studyChanged();
    recalculateDerived();
}

void Session::recalculateDerived() {
    if (study_->readOnly() || replaced_ || study_->derived().tags().empty()) return;
    runJob(
        this, "derived tags", "Calculating derived tags",
        [this](JobContext& job) -> std::function<void()> {
            auto done = std::make_shared<Result<DerivedRefresh>>(refreshDerived(
                job.study, [&](const std::string&, double share) { return !job.progress.stopped(share); }));
            return [this, done] {
                // Stopped by a newer change, which calculates them itself, or by the user, who is informed.
                if (!*done) return emit notified("Derived tags are not up to date: stopped");
                if ((*done)->made.empty() && (*done)->trouble.empty()) return;
                study_->refresh();
                announceChange();
                for (const std::string& trouble : (*done)->trouble)
                    emit failed(QString::fromStdString(trouble));
            };
        },
        true);
}

bool Session::tryChange(const std::function<void()>& work) {
    try {
        work();
    } catch (const std::exception& e) {
        emit failed(e.what());
        return false;
    }
    announceChange();
    return true;
}

void Session::undo(bool alsoOfOthers, bool pastImports) {
    const auto step = pastImports ? study_->history().nextUndoPastImports() : study_->history().nextUndo();
    if (step && step->isImport) {
        const auto before = study_->history().nextUndoPastImports();
        QString words = before ? QString::fromStdString(before->name) : QString();
        if (before && !before->ours) words += ", by " + QString::fromStdString(before->who);
        return emit importIsLast(QString::fromStdString(step->name), words);
    }
    if (step && !step->ours && !alsoOfOthers)
        return emit stepOfAnother(QString::fromStdString(step->name), QString::fromStdString(step->who),
                                  true);
    takeStep(true, step, pastImports ? History::Imports::PassOver : History::Imports::Stop);
}

void Session::redo(bool alsoOfOthers) {
    const auto step = study_->history().nextRedo();
    if (step && !step->ours && !alsoOfOthers)
        return emit stepOfAnother(QString::fromStdString(step->name), QString::fromStdString(step->who),
                                  false);
    takeStep(false, step, History::Imports::Stop);
}

/// A step with many rows takes seconds, and is taken beside the interface thread.
void Session::takeStep(bool undoing, const std::optional<UndoableStep>& step, History::Imports imports) {
    constexpr std::int64_t kLong = 500'000;
    const auto take = [undoing, imports, id = step ? step->id : StepId()](Study& study) {
        return undoing ? study.history().undo(id, imports) : study.history().redo(id);
    };
    const auto after = [this, undoing,
                        name = QString::fromStdString(step ? step->name : "")](const Status& done) {
        if (report(done)) emit notified((undoing ? "Undone: " : "Redone: ") + name);
        announceChange();
    };
    if (!step || step->bytes < kLong) return after(take(*study_));
    runJob(
        this, "history", (undoing ? "Undoing " : "Redoing ") + QString::fromStdString(step->name),
        [this, take, after](JobContext& job) -> std::function<void()> {
            return [this, after, done = take(job.study)] {
                study_->refresh();
                after(done);
            };
        },
        true);
}

void Session::setWho(const QString& who) {
    if (!who.trimmed().isEmpty()) study_->setWho(who.trimmed().toStdString());
}

void Session::setCacheSize(std::size_t bytes) {
    study_->samples().setCacheSize(bytes);
    reader_->setCacheSize(bytes);
}

void Session::lookForChanges() {
    if (writing_ > 0) return;
    if (const bool before = std::exchange(replaced_, study_->isReplaced()); before != replaced_)
        replaced_ ? emit fileReplaced() : emit fileRestored();
    if (replaced_) return study_->leavePlace();
    try {
        if (study_->refresh()) announceChange();
    } catch (const StoreError&) {
        // Locked just now, or gone: whatever needs the file says so when it needs it.
    }
}

void Session::lookAt(AssetId asset, TagId tagId) {
    const Catalog& catalog = study_->catalog();
    const auto there = [&](TagId id) {
        const Tag* old = catalog.tag(id);
        return old ? catalog.tagInRole(asset, old->role) : nullptr;
    };
    std::vector<TagId> shown;
    for (const TagId id : view_->shown()) {
        const Tag* twin = there(id);
        if (twin && std::find(shown.begin(), shown.end(), twin->id) == shown.end()) shown.push_back(twin->id);
    }
    if (!tagId)
        if (const Tag* twin = there(view_->tag())) tagId = twin->id;
    std::vector<ViewState::ArrangedPane> arranged = view_->arrangement();
    for (ViewState::ArrangedPane& pane : arranged)
        for (TagId& id : pane.tags)
            if (const Tag* twin = there(id)) id = twin->id;
    view_->select(asset, tagId);
    if (shown.empty()) return;
    view_->setArrangement(std::move(arranged));
    view_->setShown(std::move(shown));
}

void Session::showToo(const std::vector<TagId>& tags) {
    auto shown = view_->shown();
    for (const TagId id : tags)
        if (tag(id) && tag(id)->asset == view_->asset() &&
            std::find(shown.begin(), shown.end(), id) == shown.end())
            shown.push_back(id);
    view_->setShown(std::move(shown));
}

void Session::saveView() {
    if (study_->readOnly() || study_->isReplaced()) return;
    nlohmann::json j{{"from", epochNanoseconds(view_->view().from)},
                     {"to", epochNanoseconds(view_->view().to)},
                     {"bench", static_cast<int>(view_->bench())},
                     {"asset", view_->asset()},
                     {"tag", view_->tag()},
                     {"run", view_->run()},
                     {"shown", view_->shown()},
                     {"asLogged", view_->which() == Which::AsLogged},
                     {"otherLaidOver", view_->laidOver().other},
                     {"changeLaidOver", view_->laidOver().change},
                     {"groupedBy", view_->grouping().fact}};
    if (view_->grouping().only) j["onlyGroup"] = *view_->grouping().only;
    for (const ViewState::ArrangedPane& p : view_->arrangement())
        j["panes"].push_back({{"tags", p.tags}, {"folded", p.folded}});
    for (const int c : {0, 1})
        if (view_->cursor(c)) j[c == 0 ? "cursor" : "cursor2"] = epochNanoseconds(*view_->cursor(c));
    try {
        study_->setSetting("view", j.dump());
    } catch (const StoreError& e) {
        emit failed(e.what());
    }
}

void Session::restoreView() {
    JsonBody body(study_->setting("view"));
    const auto& catalog = study_->catalog();
    if (body.has("from")) {
        std::vector<TagId> shown;
        for (const TagId id : body.ids<TagId>("shown"))
            if (catalog.tag(id)) shown.push_back(id);
        view_->select(body.id<AssetId>("asset"), body.id<TagId>("tag"));
        view_->setShown(std::move(shown));
        std::vector<ViewState::ArrangedPane> panes;
        const nlohmann::json& arranged = body.member("panes");
        if (arranged.is_array())
            for (const auto& p : arranged) {
                JsonBody pane(p);
                panes.push_back({pane.ids<TagId>("tags"), pane.flag("folded", false)});
            }
        view_->setArrangement(std::move(panes));
        view_->selectRun(body.id<SpanId>("run"));
        view_->setWhich(body.flag("asLogged", false) ? Which::AsLogged : Which::Mended);
        view_->setLaidOver({body.flag("otherLaidOver", false), body.flag("changeLaidOver", false)});
        view_->setGrouping(groupingFrom(*study_, body));
        const auto instant = [&](const char* name, Instant otherwise) {
            return fromEpochNanoseconds(body.integer(name, epochNanoseconds(kEarliest),
                                                     epochNanoseconds(kLatest), epochNanoseconds(otherwise)));
        };
        const Instant from = instant("from", view_->record().from), to = instant("to", view_->record().to);
        if (from < to) view_->setView({from, to});
        for (const int c : {0, 1})
            if (const char* name = c == 0 ? "cursor" : "cursor2"; body.has(name))
                view_->setCursor(c, instant(name, from));
        view_->setBench(static_cast<BenchId>(body.integer("bench", 0, kBenches - 1, 0)));
    }
    if (catalog.asset(view_->asset())) return;
    // First look: the first asset that has most tags, its main traces, four days around the middle.
    AssetId best;
    std::size_t most = 0;
    for (const Asset& a : catalog.assets()) {
        const auto n = static_cast<std::size_t>(std::count_if(catalog.tags().begin(), catalog.tags().end(),
                                                              [&](const Tag& t) { return t.asset == a.id; }));
        if (n > most) most = n, best = a.id;
    }
    std::vector<TagId> shown;
    TagId first;
    for (const Tag& t : catalog.tags())
        if (t.asset == best && shown.size() < 7) {
            if (t.kind != TagKind::State && !first) first = t.id;
            shown.push_back(t.id);
        }
    view_->select(best, first);
    view_->setShown(std::move(shown));
    const TimeRange r = view_->record();
    const Duration span = std::min<Duration>(r.length(), 4 * kDay);
    view_->setView({r.from + (r.length() - span) / 2, r.from + (r.length() + span) / 2});
}

std::size_t Session::colourOfRole(const std::string& role) const {
    // Asked for every trace that is drawn; the first assets have most roles, so it ends early.
    std::vector<std::string_view> before;
    for (const Tag& t : study_->catalog().tags()) {
        if (t.role == role) break;
        if (std::find(before.begin(), before.end(), t.role) == before.end()) before.push_back(t.role);
    }
    return before.size() % theme_.traces.size();
}

QColor Session::tagColour(TagId id) const {
    const Tag* wanted = tag(id);
    if (!wanted) return theme_.second;
    // A role has its colour on every asset, unless one shown before it has that colour already. When all are
    // taken they come again in another shade.
    const std::size_t n = theme_.traces.size();
    const auto shade = [&](std::size_t colour) {
        const int round = static_cast<int>(colour / n);
        const QColor& base = theme_.traces[colour % n];
        return round == 0 ? base : round % 2 ? base.darker(100 + 45 * round) : base.lighter(100 + 25 * round);
    };
    std::set<std::size_t> taken;
    for (const TagId shown : view_->shown()) {
        const Tag* t = tag(shown);
        if (!t || t->kind == TagKind::State) continue;
        const std::size_t first = colourOfRole(t->role);
        std::size_t colour = first;
        for (std::size_t i = 0; taken.contains(colour); ++i) colour = (i + 1) / n * n + (first + i + 1) % n;
        if (shown == id) return shade(colour);
        taken.insert(colour);
    }
    return theme_.traces[colourOfRole(wanted->role)];
}

}  // namespace jacinth::app
