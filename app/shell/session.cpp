#include "app/shell/session.h"

#include <QThreadPool>
#include <QtConcurrent>
#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "work/derived_refresh.h"

namespace jacinth::app {

Session::Session(std::unique_ptr<Study> study, Theme theme, QObject* parent)
    : QObject(parent),
      study_(std::move(study)),
      theme_(std::move(theme)),
      view_(new ViewState(this)),
      reader_(new BackgroundReader(study_->path(), this)),
      zone_(study_->zone()) {
    view_->setRecord(study_->record());
    connect(reader_, &BackgroundReader::failed, this, &Session::failed);
}

Session::~Session() {
    cancelJobs();
    delete reader_;  // before the study: its thread must not outlive what it reads for
    reader_ = nullptr;
    QThreadPool::globalInstance()->waitForDone();
}

void Session::setTheme(const Theme& theme) {
    theme_ = theme;
    applyTheme(theme_);
    emit themeChanged();
}

void Session::runJob(const QString& name, const QString& saying,
                     std::function<std::function<void()>(JobContext&)> work, bool writes) {
    if (const auto older = jobs_.find(name); older != jobs_.end()) older->second->store(true);
    auto cancelled = std::make_shared<std::atomic<bool>>(false);
    jobs_[name] = cancelled;
    ++running_;
    const std::string path = study_->path();
    auto* guard = this;
    (void)QtConcurrent::run([=, work = std::move(work)] {
        std::function<void()> done;
        QString error;
        try {
            auto opened = Study::open(path, !writes);
            if (!opened) {
                error = QString::fromStdString(opened.error().message);
            } else {
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
        }
        QMetaObject::invokeMethod(
            guard,
            [=] {
                const bool last = --guard->running_ == 0;
                if (!cancelled->load() || writes) {
                    if (!error.isEmpty())
                        emit guard->failed(error);
                    else if (done)
                        done();
                }
                if (last) emit guard->jobsDone();
            },
            Qt::QueuedConnection);
    });
}

void Session::cancelJobs() {
    for (auto& [name, flag] : jobs_) flag->store(true);
}

void Session::announceChange() {
    zone_ = study_->zone();
    view_->setRecord(study_->record());
    emit studyChanged();
    workOutDerived();
}

void Session::workOutDerived() {
    if (study_->derivedTags().empty()) return;
    runJob(
        "derived tags", "Working out derived tags",
        [this](JobContext& job) -> std::function<void()> {
            auto done = std::make_shared<Result<DerivedRefresh>>(refreshDerived(
                job.study, [&](const std::string&, double share) { return job.progress(share); }));
            return [this, done] {
                // Stopped by a newer change, which works them out itself, or by the user, who is told.
                if (!*done) return emit told("Derived tags are not up to date: stopped");
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

void Session::undo() {
    const QString name = QString::fromStdString(study_->undoName());
    if (tell(study_->undo())) emit told("Undone: " + name);
    announceChange();
}

void Session::redo() {
    const QString name = QString::fromStdString(study_->redoName());
    if (tell(study_->redo())) emit told("Redone: " + name);
    announceChange();
}

void Session::lookAt(std::int64_t asset, std::int64_t tagId) {
    const Catalog& catalog = study_->catalog();
    const auto there = [&](std::int64_t id) {
        const Tag* old = catalog.tag(id);
        return old ? catalog.tagInRole(asset, old->role) : nullptr;
    };
    std::vector<std::int64_t> shown;
    for (const std::int64_t id : view_->shown()) {
        const Tag* twin = there(id);
        if (twin && std::find(shown.begin(), shown.end(), twin->id) == shown.end()) shown.push_back(twin->id);
    }
    if (!tagId)
        if (const Tag* twin = there(view_->tag())) tagId = twin->id;
    std::vector<ViewState::ArrangedPane> arranged = view_->arrangement();
    for (ViewState::ArrangedPane& pane : arranged)
        for (std::int64_t& id : pane.tags)
            if (const Tag* twin = there(id)) id = twin->id;
    view_->select(asset, tagId);
    if (shown.empty()) return;
    view_->setArrangement(std::move(arranged));
    view_->setShown(std::move(shown));
}

void Session::showToo(const std::vector<std::int64_t>& tags) {
    auto shown = view_->shown();
    for (const std::int64_t id : tags)
        if (tag(id) && tag(id)->asset == view_->asset() &&
            std::find(shown.begin(), shown.end(), id) == shown.end())
            shown.push_back(id);
    view_->setShown(std::move(shown));
}

void Session::saveView() {
    nlohmann::json j{{"from", view_->view().from},
                     {"to", view_->view().to},
                     {"bench", static_cast<int>(view_->bench())},
                     {"asset", view_->asset()},
                     {"tag", view_->tag()},
                     {"run", view_->run()},
                     {"shown", view_->shown()},
                     {"asLogged", view_->which() == Which::AsLogged}};
    for (const ViewState::ArrangedPane& p : view_->arrangement())
        j["panes"].push_back({{"tags", p.tags}, {"folded", p.folded}});
    for (const int c : {0, 1})
        if (view_->cursor(c)) j[c == 0 ? "cursor" : "cursor2"] = *view_->cursor(c);
    try {
        study_->setSetting("view", j.dump());
    } catch (const StoreError& e) {
        emit failed(e.what());
    }
}

void Session::restoreView() {
    const auto j = nlohmann::json::parse(study_->setting("view", "null"), nullptr, false);
    const auto& catalog = study_->catalog();
    if (j.is_object()) {
        std::vector<std::int64_t> shown;
        for (const auto& id : j.value("shown", nlohmann::json::array()))
            if (id.is_number_integer() && catalog.tag(id)) shown.push_back(id);
        view_->select(j.value("asset", std::int64_t{0}), j.value("tag", std::int64_t{0}));
        view_->setShown(std::move(shown));
        std::vector<ViewState::ArrangedPane> panes;
        const auto arranged = j.value("panes", nlohmann::json::array());
        for (const auto& p : arranged)
            if (p.is_object() && p.contains("tags") && p["tags"].is_array()) {
                ViewState::ArrangedPane& pane = panes.emplace_back();
                for (const auto& id : p["tags"])
                    if (id.is_number_integer()) pane.tags.push_back(id);
                pane.folded = p.value("folded", false);
            }
        view_->setArrangement(std::move(panes));
        view_->selectRun(j.value("run", std::int64_t{0}));
        view_->setWhich(j.value("asLogged", false) ? Which::AsLogged : Which::Mended);
        view_->setView({j.value("from", view_->record().from), j.value("to", view_->record().to)});
        if (j.contains("cursor")) view_->setCursor(0, j["cursor"].get<Instant>());
        if (j.contains("cursor2")) view_->setCursor(1, j["cursor2"].get<Instant>());
        const int bench = j.value("bench", 0);
        if (bench >= 0 && bench < kBenches) view_->setBench(static_cast<BenchId>(bench));
    }
    if (catalog.asset(view_->asset())) return;
    // First look: the first asset that has most tags, its main traces, four days around the middle.
    std::int64_t best = 0;
    std::size_t most = 0;
    for (const Asset& a : catalog.assets()) {
        const auto n = static_cast<std::size_t>(std::count_if(catalog.tags().begin(), catalog.tags().end(),
                                                              [&](const Tag& t) { return t.asset == a.id; }));
        if (n > most) most = n, best = a.id;
    }
    std::vector<std::int64_t> shown;
    std::int64_t first = 0;
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
    std::size_t place = 0;
    for (const std::string& r : study_->catalog().roles()) {
        if (r == role) break;
        ++place;
    }
    return place % theme_.traces.size();
}

QColor Session::tagColour(std::int64_t id) const {
    const Tag* wanted = tag(id);
    if (!wanted) return theme_.second;
    // A role has its colour on every asset, unless one shown before it has that colour already.
    std::set<std::size_t> taken;
    for (const std::int64_t shown : view_->shown()) {
        const Tag* t = tag(shown);
        if (!t || t->kind == TagKind::State) continue;
        std::size_t colour = colourOfRole(t->role);
        for (std::size_t i = 0; i < theme_.traces.size() && taken.contains(colour); ++i)
            colour = (colour + 1) % theme_.traces.size();
        if (shown == id) return theme_.traces[colour];
        taken.insert(colour);
    }
    return theme_.traces[colourOfRole(wanted->role)];
}

}  // namespace jacinth::app
