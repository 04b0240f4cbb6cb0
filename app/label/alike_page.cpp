#include "app/label/alike_page.h"

#include <QScrollArea>
#include <cmath>

#include "app/base/swatch.h"
#include "store/judgement.h"
#include "work/label/labels.h"

namespace jacinth::app {
namespace {

constexpr int kPoints = 160;  // of a stretch on the sheet, and for comparison
constexpr const char* kJob = "alike";
constexpr const char* kFrom = "more like this";

double spreadOf(const std::vector<double>& values) {
    double sum = 0, squares = 0, n = 0;
    for (const double v : values)
        if (std::isfinite(v)) sum += v, squares += v * v, ++n;
    return n > 0 ? std::sqrt(std::max(0.0, squares / n - sum / n * sum / n)) : 0;
}

Duration common(TimeRange a, TimeRange b) {
    return std::max(Duration::zero(), std::min(a.to, b.to) - std::max(a.from, b.from));
}

}  // namespace

AlikePage::AlikePage(Session& session) : BenchPage(session, false) {
    build();
    connect(sheet_, &ContactSheet::judged, this, &AlikePage::judge);
    connect(sheet_, &ContactSheet::stopped, this, [this] {
        session_.cancelJobsOf(this);
        say("stopped");
    });
    connect(sheet_, &ContactSheet::opened, this, [this](int cell) {
        const auto& at = sheet_->cells()[static_cast<std::size_t>(cell)];
        session_.lookAt(at.asset);
        session_.view().goTo(at.range.from, at.range.to);
        emit tracesAsked();
    });
    sheet_->say(
        "Choose a marked example on the page Marks, come back and press Search: the record is ranked by how "
        "much "
        "it looks like it.");
}

void AlikePage::build() {
    sheet_ = new ContactSheet(session_);
    area_ = new QScrollArea;
    area_->setWidget(sheet_);
    area_->setWidgetResizable(true);
    area_->setFrameShape(QFrame::NoFrame);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(area_);
    side_->addWidget(makeLabel("Example", "section"));
    exampleText_ = makeLabel("", "second");
    exampleText_->setObjectName("alikeExample");
    exampleText_->setWordWrap(true);
    side_->addWidget(exampleText_);
    roles_ = new CheckButton("alikeRoles", "Tags to compare", "the tag in hand");
    margin_ = makeField("alikeMargin", "As much more before and after");
    kind_ = makeChoice("alikeKind", "Accepted ones are", {});
    scope_ = makeChoice("alikeScope", "Search in", {"the fleet", "this asset"});
    stretch_ = makeField("alikeStretch", "Per cent longer and shorter");
    stretch_->setText("0");
    most_ = makeField("alikeMost", "How many");
    most_->setText("100");
    level_ = new QCheckBox("levels matter, not only the shape");
    level_->setObjectName("alikeLevel");
    level_->setChecked(true);  // else the least flicker of the same shape comes first
    addRow(side_, "Tags", roles_);
    addRow(side_, "With margin", margin_);
    addRow(side_, "Stretch, %", stretch_);
    addRow(side_, "Search in", scope_);
    addRow(side_, "At most", most_);
    side_->addWidget(level_);
    search_ = makeButton("Search", "alikeSearch", true);
    side_->addWidget(search_);
    side_->addWidget(makeRule());
    side_->addWidget(makeLabel("Hits", "section"));
    addRow(side_, "Accepted are", kind_);
    order_ = makeChoice("alikeOrder", "Order", {"nearest first", "weakest first"});
    addRow(side_, "Order", order_);
    auto* keys = makeLabel(
        "A accepts, R rejects, U takes it back; arrows move, Space shows the traces, Esc stops. What "
        "resembles a "
        "rejected one steps back.",
        "second");
    keys->setWordWrap(true);
    side_->addWidget(keys);
    side_->addStretch();
    connect(search_, &QPushButton::clicked, this, &AlikePage::search);
    connect(order_, &QComboBox::activated, this, &AlikePage::arrange);
    connect(kind_, &QComboBox::activated, this, &AlikePage::readLabels);
}

void AlikePage::entered() {
    BenchPage::entered();
    sheet_->setFocus();
}

QString AlikePage::title() const {
    return "More like this";
}

void AlikePage::say(const QString& state) {
    state_ = state;
    emit titleChanged();
}

std::optional<Span> AlikePage::example() const {
    return label_ ? session_.study().tracks().span(label_) : std::nullopt;
}

std::string AlikePage::kind() const {
    return kind_->currentText().toStdString();
}

void AlikePage::refresh() {
    fillKinds();
    fillRoles();
    const auto span = example();
    const Asset* asset = span ? session_.study().catalog().asset(span->asset) : nullptr;
    exampleText_->setText(
        span ? QString("%1 on %2, %3, %4")
                   .arg(factText(span->facts, label_fact::kKind).empty()
                            ? "a mark not named yet"
                            : QString::fromStdString(factText(span->facts, label_fact::kKind)),
                        asset ? QString::fromStdString(asset->name) : "the plant",
                        QString::fromStdString(session_.zone().shortText(span->start)),
                        QString::fromStdString(sayDuration(span->end - span->start)))
             : "none: choose a mark on the page Marks");
    search_->setEnabled(span.has_value());
    if (found_) readLabels();
}

void AlikePage::fillKinds() {
    const QString before = kind_->currentText();
    kind_->clear();
    for (const LabelKind& k : session_.study().judgement().labelBook())
        kind_->addItem(swatchIcon(onGround(session_.theme(), QString::fromStdString(k.colour))),
                       QString::fromStdString(k.name));
    if (const int at = kind_->findText(before); at >= 0) kind_->setCurrentIndex(at);
}

void AlikePage::fillRoles() {
    const auto span = example();
    const AssetId asset = span ? span->asset : session_.view().asset();
    std::vector<std::int64_t> ticked = roles_->ticked();
    if (rolesOf_ != asset) ticked.clear();
    offerTags(asset, ticked);
}

void AlikePage::offerTags(AssetId asset, const std::vector<std::int64_t>& ticked) {
    std::vector<CheckButton::Choice> choices;
    for (const Tag& t : session_.study().catalog().tags())
        if (t.asset == asset && t.kind != TagKind::State)
            choices.push_back({t.id.number, QString::fromStdString(t.name)});
    rolesOf_ = asset;
    roles_->setChoices(choices, ticked);
}

void AlikePage::startFrom(SpanId label) {
    label_ = label;
    const auto span = example();
    if (!span) return;
    fillKinds();
    if (const int at = kind_->findText(QString::fromStdString(factText(span->facts, label_fact::kKind)));
        at >= 0)
        kind_->setCurrentIndex(at);
    std::vector<std::int64_t> ticked;
    for (const TagId id : tagsOf(*span))
        if (const Tag* tag = session_.tag(id); tag && tag->kind != TagKind::State)
            ticked.push_back(id.number);
    const Tag* inHand = session_.tag(session_.view().tag());
    if (ticked.empty() && inHand && inHand->asset == span->asset && inHand->kind != TagKind::State)
        ticked.push_back(inHand->id.number);
    offerTags(span->asset, ticked);
    margin_->setText(QString::fromStdString(formatDuration(usualMargin(*span, ticked))));
    refresh();
    search();
}

/// As much again on either side: what goes before and after tells a stretch from others. A short mark gets
/// more, so that the example has samples enough to have a shape.
Duration AlikePage::usualMargin(const Span& label, const std::vector<std::int64_t>& tags) const {
    constexpr int kEnough = 24;  // samples
    Duration spacing{};
    for (const std::int64_t id : tags)
        if (const Tag* tag = session_.tag(TagId(id))) spacing = std::max<Duration>(spacing, tag->spacing);
    const Duration length = label.end - label.start;
    return std::chrono::floor<std::chrono::seconds>(std::max(length, (kEnough * spacing - length) / 2));
}

void AlikePage::search() {
    const auto span = example();
    if (!span) return;
    auto found = std::make_shared<Found>();
    MoreLike& question = found->question;
    for (const std::int64_t id : roles_->ticked())
        if (const Tag* tag = session_.tag(TagId(id))) question.roles.push_back(tag->role);
    const auto margin =
        parseDuration(margin_->text().trimmed().isEmpty() ? "0s" : margin_->text().toStdString());
    bool stretchIs = false, mostIs = false;
    const double stretch = stretch_->text().toDouble(&stretchIs);
    const int most = most_->text().toInt(&mostIs);
    markWrong(margin_, !margin, "like 5m or 30s");
    markWrong(stretch_, !stretchIs || stretch < 0 || stretch > 50, "0 to 50");
    markWrong(most_, !mostIs || most < 1 || most > 2000, "1 to 2000");
    if (!margin || !stretchIs || stretch < 0 || stretch > 50 || !mostIs || most < 1 || most > 2000) return;
    found->marked = span->range();
    found->margin = *margin;
    question.asset = span->asset;
    question.example = {span->start - *margin, span->end + *margin};
    if (scope_->currentIndex() == 1) question.assets = {span->asset};
    question.search.level = level_->isChecked();
    question.search.stretch = stretch / 100;
    question.search.most = static_cast<std::size_t>(most);
    question.which = session_.view().which();
    say("searching…");
    session_.runJob(
        this, kJob, "Looking for more like this", [this, found](JobContext& job) -> std::function<void()> {
            const auto hits = moreLike(job.study, found->question, job.progress);
            if (!hits)
                return [this, error = hits.error()] {
                    say(error.isCancelled() ? "stopped" : "");
                    if (!error.isCancelled()) emit session_.failed(QString::fromStdString(error.message));
                };
            const MoreLike& q = found->question;
            found->example = valuesOf(job.study, q, q.asset, q.example, kPoints);
            std::vector<double> scale;
            for (const auto& values : found->example) scale.push_back(spreadOf(values));
            found->exampleComparable = comparable(found->example, kPoints, q.search.level, scale);
            for (const AlikeStretch& hit : *hits) {
                ContactSheet::Cell& cell = found->cells.emplace_back();
                cell.asset = hit.asset;
                cell.range = hit.range;
                cell.distance = cell.score = hit.distance;
                cell.values = valuesOf(job.study, q, hit.asset, hit.range, kPoints);
                found->comparable.push_back(comparable(cell.values, kPoints, q.search.level, scale));
            }
            return [this, found] { take(found); };
        });
}

void AlikePage::take(std::shared_ptr<Found> found) {
    found_ = std::move(found);
    if (found_->cells.empty()) {
        sheet_->say(
            "Nothing of the record is comparable with the example: its tags may be missing elsewhere.");
        return say("no hits");
    }
    for (ContactSheet::Cell& cell : found_->cells) cell.known = !labelsOver(cell).empty();
    readLabels();
    if (sheet_->current() < 0) sheet_->setCurrent(0);
    sheet_->setFocus();
}

/// The marked part of a stretch: without the margin, which is stretched with it.
TimeRange AlikePage::labelRange(const ContactSheet::Cell& cell) const {
    const double stretched =
        toNanoseconds(cell.range.length()) / std::max(1.0, toNanoseconds(found_->question.example.length()));
    const Duration margin = scaled(found_->margin, stretched);
    const TimeRange inner{cell.range.from + margin, cell.range.to - margin};
    return inner.length() > Duration::zero() ? inner : cell.range;
}

std::vector<SpanId> AlikePage::labelsOver(const ContactSheet::Cell& cell) const {
    std::vector<SpanId> out;
    const TimeRange at = labelRange(cell);
    for (const Span& s : labelsOf(session_.study()))
        if (s.asset == cell.asset && factText(s.facts, label_fact::kKind) == kind() &&
            2 * common(s.range(), at) >= std::min(at.length(), s.range().length()))
            out.push_back(s.id);
    return out;
}

void AlikePage::readLabels() {
    if (!found_) return;
    for (ContactSheet::Cell& cell : found_->cells) {
        const bool labelled = !labelsOver(cell).empty();
        if (labelled) cell.verdict = HitVerdict::Accepted;
        if (!labelled && cell.verdict == HitVerdict::Accepted)
            cell.verdict = HitVerdict::Open, cell.known = false;
    }
    arrange();
}

void AlikePage::arrange() {
    if (!found_) return;
    auto& cells = found_->cells;
    std::vector<HitVerdict> verdicts;
    for (const auto& cell : cells) verdicts.push_back(cell.verdict);
    // What was known before says nothing of this search: only verdicts given on the sheet move others.
    for (std::size_t i = 0; i < cells.size(); ++i)
        if (cells[i].known) verdicts[i] = HitVerdict::Open;
    const auto scores = scoresAfter(found_->exampleComparable, found_->comparable, verdicts);
    const bool judged =
        std::any_of(verdicts.begin(), verdicts.end(), [](HitVerdict v) { return v != HitVerdict::Open; });
    for (std::size_t i = 0; i < cells.size(); ++i) cells[i].score = judged ? scores[i] : cells[i].distance;
    std::vector<ContactSheet::Cell> shown = cells;
    const bool weakest = order_->currentIndex() == 1;
    std::stable_sort(shown.begin(), shown.end(), [&](const auto& a, const auto& b) {
        // The accepted ones first, the rejected ones last: what is open stands together.
        const auto rank = [](HitVerdict v) {
            return v == HitVerdict::Accepted ? 0 : v == HitVerdict::Open ? 1 : 2;
        };
        if (rank(a.verdict) != rank(b.verdict)) return rank(a.verdict) < rank(b.verdict);
        return weakest ? a.score > b.score : a.score < b.score;
    });
    int accepted = 0, rejected = 0;
    for (const auto& cell : cells) {
        accepted += cell.verdict == HitVerdict::Accepted;
        rejected += cell.verdict == HitVerdict::Rejected;
    }
    sheet_->show(found_->example, std::move(shown));
    say(QString("%1 hits: %2 accepted, %3 rejected, %4 open")
            .arg(cells.size())
            .arg(accepted)
            .arg(rejected)
            .arg(static_cast<int>(cells.size()) - accepted - rejected));
}

bool AlikePage::accept(const ContactSheet::Cell& cell) {
    if (kind().empty() || !labelsOver(cell).empty()) return !kind().empty();
    Span s{{}, cell.asset, {}, labelRange(cell).from, labelRange(cell).to, {}};
    s.facts[label_fact::kFrom] = std::string(kFrom);
    s.facts[label_fact::kFromSpan] = static_cast<double>(label_.number);
    std::vector<TagId> tags;
    if (const auto span = example(); span && !tagsOf(*span).empty())
        for (const std::string& role : found_->question.roles)
            if (const Tag* tag = session_.study().catalog().tagInRole(cell.asset, role))
                tags.push_back(tag->id);
    setTags(s, tags);
    bool good = false;
    session_.tryChange([&] { good = session_.report(addLabels(session_.study(), {s}, kind())); });
    return good;
}

/// Labels that this search made; others stay.
void AlikePage::takeBack(const ContactSheet::Cell& cell) {
    std::vector<SpanId> made;
    for (const SpanId id : labelsOver(cell))
        if (const auto span = session_.study().tracks().span(id);
            span && factText(span->facts, label_fact::kFrom) == kFrom)
            made.push_back(id);
    if (!made.empty()) session_.tryChange([&] { session_.report(removeLabels(session_.study(), made)); });
}

void AlikePage::judge(int index, HitVerdict verdict) {
    if (!found_) return;
    const ContactSheet::Cell judged = sheet_->cells()[static_cast<std::size_t>(index)];
    const auto own = std::find_if(found_->cells.begin(), found_->cells.end(), [&](const auto& cell) {
        return cell.asset == judged.asset && cell.range == judged.range;
    });
    if (own == found_->cells.end()) return;
    // The one to look at afterwards: the next that is open.
    std::optional<std::pair<AssetId, TimeRange>> next;
    for (int i = index + 1; i < static_cast<int>(sheet_->cells().size()) && !next; ++i)
        if (const auto& cell = sheet_->cells()[static_cast<std::size_t>(i)]; cell.verdict == HitVerdict::Open)
            next = std::pair(cell.asset, cell.range);
    if (verdict == HitVerdict::Accepted) {
        if (!accept(judged)) return;
    } else {
        takeBack(judged);
    }
    own->verdict = verdict;
    readLabels();
    for (int i = 0; next && i < static_cast<int>(sheet_->cells().size()); ++i)
        if (const auto& cell = sheet_->cells()[static_cast<std::size_t>(i)];
            cell.asset == next->first && cell.range == next->second)
            return sheet_->setCurrent(i);
}

}  // namespace jacinth::app
