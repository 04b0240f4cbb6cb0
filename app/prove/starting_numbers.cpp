#include "app/prove/starting_numbers.h"

namespace jacinth::app {
namespace {

constexpr int kPause = 100;  ///< ms after the last key

/// What the ranges depend on: each setting's name, and what it is compared with.
std::vector<std::string> dependsOn(const ProveRequest& request) {
    std::vector<std::string> out{request.failures, request.which == Which::AsLogged ? "as logged" : "mended"};
    out.insert(out.end(), request.masks.begin(), request.masks.end());
    for (const std::string& name : settingsIn(request.rule)) {
        out.push_back("{" + name + "}");
        const auto place = placeOfSetting(request.rule, name);
        if (place) out.push_back(place->unit + withSomeSettings(place->measure, request.settings));
    }
    return out;
}

}  // namespace

StartingNumbers::StartingNumbers(Session& session, QObject* parent)
    : QObject(parent), session_(session), soon_(new QTimer(this)) {
    soon_->setSingleShot(true);
    soon_->setInterval(kPause);
    connect(soon_, &QTimer::timeout, this, &StartingNumbers::look);
    connect(&session, &Session::studyChanged, this, [this] { known_.clear(); });
}

void StartingNumbers::follow(const ProveRequest& request) {
    wanted_ = dependsOn(request);
}

void StartingNumbers::ask(const ProveRequest& request) {
    const auto before = std::exchange(wanted_, dependsOn(request));
    if (wanted_ == known_) return soon_->stop();
    if (wanted_ == before && looking()) return;
    asked_ = request;
    soon_->start();
}

const StartingSetting* StartingNumbers::of(const std::string& name) const {
    if (wanted_ != known_) return nullptr;
    for (const StartingSetting& r : ranges_)
        if (r.vary.name == name) return &r;
    return nullptr;
}

void StartingNumbers::look() {
    ++underWay_;
    session_.runJob(
        this, "starting numbers", "Looking for numbers to begin with",
        [this, asked = asked_, wanted = wanted_](JobContext& job) -> std::function<void()> {
            auto ranges = startingRanges(job.study, asked, job.progress);
            return [this, wanted, ranges = std::move(ranges)] {
                if (!ranges) return;  // stopped: the numbers stay
                ranges_ = *ranges;
                known_ = wanted;
            };
        },
        false,
        [this] {
            --underWay_;
            // What was found is taken over after this.
            QTimer::singleShot(0, this, [this] {
                if (!looking()) emit found();
            });
        });
}

}  // namespace jacinth::app
