#include "app/prove/prove_state.h"

#include <QElapsedTimer>

#include "store/rule_body.h"

namespace jacinth::app {
namespace {

const char* const kCurrentRule = "current rule";  ///< the study's setting that holds it as JSON
constexpr int kPause = 30;                        ///< ms after the last key

}  // namespace

ProveState::ProveState(Session& session)
    : QObject(&session),
      session_(session),
      starting_(new StartingNumbers(session, this)),
      soon_(new QTimer(this)) {
    soon_->setSingleShot(true);
    soon_->setInterval(kPause);
    connect(soon_, &QTimer::timeout, this, &ProveState::proveNow);
    connect(&session, &Session::studyChanged, this, &ProveState::studyChanged);
    connect(&session.view(), &ViewState::whichChanged, this, &ProveState::changed);
    const auto current = readRules("[" + session.study().setting(kCurrentRule) + "]");
    const auto kept = session.study().judgement().rules();
    if (current && !current->empty())
        rule_ = current->front();
    else if (!kept.empty())
        rule_ = kept.front();
    connect(starting_, &StartingNumbers::found, this, &ProveState::takeStartingNumbers);
    fillSettings();
    check();
}

ProveRequest ProveState::request() const {
    ProveRequest out = requestOf(rule_);
    out.which = session_.view().which();
    return out;
}

TagId ProveState::tagOf(AssetId asset) const {
    if (tagNames_.empty()) return {};
    const Tag* tag = session_.study().catalog().tagNamed(asset, tagNames_.front());
    return tag ? tag->id : TagId();
}

ShowMoment ProveState::pointAtFailure(AssetId asset, Instant failure) {
    session_.view().select(asset, tagOf(asset));
    return {{failure - 3 * kDay, failure}, tagOf(asset)};
}

ShowMoment ProveState::pointAtAlarm(const AlarmVerdict& alarm) {
    session_.view().select(alarm.asset, tagOf(alarm.asset));
    return {alarm.range, tagOf(alarm.asset)};
}

void ProveState::take(const Rule& rule) {
    rule_ = rule;
    hadBefore_.clear();
    begun_.clear();
    fillSettings();
    proof_.reset();
    changed();
    rule_.searched = rule.searched;
    emit ruleTaken();
    emit proved();
    proveSoon();
}

void ProveState::rename(const std::string& name) {
    rule_.name = name;
    emit ruleChanged();
}

void ProveState::setText(const std::string& text) {
    if (text == rule_.text) return;
    rule_.text = text;
    fillSettings();
    changed();
}

void ProveState::setSetting(const std::string& name, double value) {
    if (!rule_.settings.contains(name)) return;
    const bool begun = begun_.erase(name) > 0;
    if (rule_.settings[name] == value && !begun) return;
    rule_.settings[name] = value;
    changed();
}

void ProveState::setSettings(const Settings& settings) {
    Settings now = rule_.settings;
    for (auto& [name, value] : now)
        if (const auto given = settings.find(name); given != settings.end()) {
            value = given->second;
            begun_.erase(name);
        }
    if (now == rule_.settings) return;
    rule_.settings = std::move(now);
    changed();
}

void ProveState::setSpec(const ProveSpec& spec) {
    if (spec == rule_.spec) return;
    rule_.spec = spec;
    changed();
}

void ProveState::setFailures(const std::string& kindOrTrack) {
    if (kindOrTrack == rule_.failures) return;
    rule_.failures = kindOrTrack;
    changed();
}

void ProveState::setMasks(const std::vector<std::string>& masks) {
    if (masks == rule_.masks) return;
    rule_.masks = masks;
    changed();
}

/// A number for each setting of the text, and for no other. One that was deleted and comes back, as it does
/// while the text is edited, has the number that it had.
void ProveState::fillSettings() {
    for (const auto& [name, value] : rule_.settings) hadBefore_[name] = value;
    Settings now;
    for (const std::string& name : settingsIn(rule_.text)) {
        const auto known = hadBefore_.find(name);
        now[name] = known == hadBefore_.end() ? 1 : known->second;
        if (known == hadBefore_.end()) begun_.insert(name);
    }
    rule_.settings = std::move(now);
    std::erase_if(begun_, [&](const std::string& name) { return !rule_.settings.contains(name); });
}

bool ProveState::begins() const {
    return !begun_.empty() && starting_->looking();
}

ProveRequest ProveState::startingRequest() const {
    ProveRequest out = request();
    for (const std::string& name : begun_) out.settings.erase(name);
    return out;
}

void ProveState::findRanges() {
    if (provable() && !rule_.settings.empty()) starting_->ask(startingRequest());
}

bool ProveState::begin() {
    bool other = false;
    for (const std::string& name : begun_) {
        const StartingSetting* found = starting_->of(name);
        const auto now = rule_.settings.find(name);
        if (!found || now == rule_.settings.end() || now->second == found->value) continue;
        now->second = found->value;
        other = true;
    }
    return other;
}

void ProveState::takeStartingNumbers() {
    if (begin()) return changed();
    if (wanted_) proveSoon();
}

void ProveState::setSearched(const std::string& verdict) {
    rule_.searched = verdict;
}

void ProveState::changed() {
    stale_ = true;
    rule_.searched.clear();  // it was about the rule as it was
    check();
    starting_->follow(startingRequest());
    if (!begun_.empty()) {
        findRanges();
        if (begin()) check();  // known already
    }
    emit ruleChanged();
    if (wanted_) proveSoon();
}

/// What the study makes of the text.
void ProveState::check() {
    fleet_.reset();
    trouble_.reset();
    tagNames_.clear();
    if (rule_.text.find_first_not_of(" \n\t") == std::string::npos) return;
    const auto text = withSettings(rule_.text, rule_.settings);
    if (!text) {
        trouble_ = text.error();
        return;
    }
    auto fleet = compileRule(session_.study(), *text, request().failures);
    if (!fleet) {
        trouble_ = fleet.error();
        return;
    }
    const Expression& first = fleet->byAsset.front().second;
    tagNames_.assign(first.roles.begin(), first.roles.end());
    tagNames_.insert(tagNames_.end(), first.paths.begin(), first.paths.end());
    if (const Status good = checkIsCondition(first); !good) {
        trouble_ = good.error();
        return;
    }
    fleet_ = std::move(*fleet);
}

void ProveState::studyChanged() {
    if (session_.view().bench() != BenchId::Prove) {
        unseen_ = true;
        return;
    }
    unseen_ = false;
    check();
    // Labels and renamed rules change the study all the time: a proof is old only when what it reads is.
    if (proof_ && provedFrom(session_.study(), request()) != madeFrom_) stale_ = true;
    emit ruleChanged();
    if (wanted_ && stale_) proveSoon();
}

void ProveState::entered() {
    if (unseen_) studyChanged();
    proveSoon();
}

void ProveState::proveSoon() {
    wanted_ = true;
    if (!stale_) return;
    if (provable() && !begins()) return soon_->start();
    soon_->stop();  // without a rule, or until its numbers are found
}

void ProveState::proveNow() {
    wanted_ = true;
    soon_->stop();
    if (!provable()) return;
    proving_ = true;
    emit provingChanged();
    session_.runJob(
        this, "prove", "Proving",
        [this, asked = request(), rule = rule_, kept = kept_](JobContext& job) -> std::function<void()> {
            QElapsedTimer timer;
            timer.start();
            auto proof = proveRule(job.study, asked, job.progress, kept.get());
            return [this, rule, asked, proof = std::move(proof), marks = provedFrom(job.study, asked),
                    seconds = static_cast<double>(timer.elapsed()) / 1000] {
                if (!session_.report(proof)) return;
                proof_ = *proof;
                madeFrom_ = marks;
                seconds_ = seconds;
                stale_ = !saysTheSame(rule, rule_) || asked.which != session_.view().which();
                remember();
                emit proved();
            };
        },
        false,
        [this] {
            proving_ = false;
            emit provingChanged();
        });
}

/// For the next time that the study is opened.
void ProveState::remember() {
    if (session_.study().readOnly()) return;
    std::string text = rulesText({rule_});
    text = text.substr(text.find('{'), text.rfind('}') - text.find('{') + 1);
    try {
        session_.study().setSetting(kCurrentRule, text);
    } catch (const std::exception& e) {
        emit session_.failed(e.what());
    }
}

std::optional<Rule> ProveState::keptAs() const {
    for (const Rule& r : session_.study().judgement().ruleVersions(rule_.name))
        if (saysTheSame(r, rule_)) return r;
    return {};
}

bool ProveState::keep(const Rule& words) {
    Rule rule = rule_;
    rule.name = words.name;
    rule.severity = words.severity;
    rule.meaning = words.meaning;
    rule.advice = words.advice;
    rule.note = words.note;
    bool kept = false;
    session_.tryChange([&] {
        const auto id = proofIsCurrent() ? keepProved(session_.study(), rule, request(), *proof_)
                                         : keepRule(session_.study(), rule);
        kept = session_.report(id);
        if (kept) rule_ = *session_.study().judgement().ruleNamed(rule.name);
    });
    if (kept) emit ruleTaken();
    return kept;
}

}  // namespace jacinth::app
