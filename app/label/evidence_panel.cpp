#include "app/label/evidence_panel.h"

#include <QInputDialog>
#include <QMenu>

#include "app/base/ui.h"
#include "app/label/add_evidence.h"
#include "app/label/frame_folder.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/evidence_files.h"

namespace jacinth::app {
namespace {

constexpr int kTickMs = 100;
constexpr Duration kLogReach = 12 * kHour;
constexpr int kLogLines = 4;
constexpr Duration kMost = 10 * kMinute, kStep = kSecond;  // of offsets that are tried
constexpr std::array<int, 5> kSpeeds{1, 10, 60, 300, 1800};

}  // namespace

EvidencePanel::EvidencePanel(Session& session) : session_(session), timer_(new QTimer(this)) {
    setObjectName("evidencePanel");
    timer_->setInterval(kTickMs);
    build();
    connect(timer_, &QTimer::timeout, this, &EvidencePanel::tick);
    connect(&session.view(), &ViewState::cursorChanged, this, &EvidencePanel::follow);
    const auto again = [this] {
        stale_ = true;
        if (isVisible()) rebuild();
    };
    connect(&session, &Session::studyChanged, this, again);
    connect(&session.view(), &ViewState::selectionChanged, this, again);
}

void EvidencePanel::build() {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 0, 0, 0);
    column->setSpacing(6);
    auto* head = new QHBoxLayout;
    head->setSpacing(4);
    head->addWidget(makeLabel("Evidence", "section"));
    head->addStretch();
    auto* add = makeButton("Add…", "evidenceAdd");
    auto* kinds = new QMenu(add);
    kinds->setObjectName("evidenceAddMenu");
    for (const auto& [words, kind] :
         {std::pair("Folder of frames…", EvidenceKind::Frames), std::pair("Video…", EvidenceKind::Video),
          std::pair("Picture…", EvidenceKind::Picture)})
        kinds->addAction(words, this, [this, kind = kind] { this->add(kind); });
    add->setMenu(kinds);
    auto* remove = makeButton("Remove…", "evidenceRemove");
    head->addWidget(add);
    head->addWidget(remove);
    column->addLayout(head);
    empty_ = makeLabel(
        "No pictures of this asset yet. Add a folder of frames whose names tell their time, like "
        "20260305-141500, a video, or one picture.",
        "second");
    empty_->setWordWrap(true);
    column->addWidget(empty_);
    auto* inside = new QWidget;
    pictures_ = new QVBoxLayout(inside);
    pictures_->setContentsMargins(0, 0, 0, 0);
    pictures_->setSpacing(8);
    column->addWidget(makeScrolled(inside), 1);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    auto* back = makeButton("◂", "evidenceBack");
    back->setAccessibleName("Frame before");
    play_ = makeButton("Play", "evidencePlay");
    play_->setToolTip("Space");
    auto* on = makeButton("▸", "evidenceOn");
    on->setAccessibleName("Next frame");
    QStringList speeds;
    for (const int s : kSpeeds) speeds << QString("%1×").arg(s);
    speed_ = makeChoice("evidenceSpeed", "Speed", speeds);
    speed_->setCurrentIndex(2);
    for (QWidget* w : {static_cast<QWidget*>(back), static_cast<QWidget*>(play_), static_cast<QWidget*>(on)})
        row->addWidget(w);
    row->addWidget(speed_, 1);
    column->addLayout(row);
    propose_ = makeButton("Propose the clock", "evidencePropose");
    propose_->setToolTip("Where the brightness of the pictures follows the tag in hand most closely");
    column->addWidget(propose_);
    column->addWidget(makeRule());
    column->addWidget(makeLabel("Shift log", "section"));
    log_ = makeLabel("", "second");
    log_->setObjectName("evidenceLog");
    log_->setTextFormat(Qt::PlainText);
    log_->setWordWrap(true);
    column->addWidget(log_);
    // A click leaves the keys with the traces.
    for (QWidget* w : std::initializer_list<QWidget*>{add, remove, back, play_, on, speed_, propose_})
        w->setFocusPolicy(Qt::TabFocus);
    connect(remove, &QPushButton::clicked, this, &EvidencePanel::removeSource);
    connect(back, &QPushButton::clicked, this, [this] { step(-1); });
    connect(on, &QPushButton::clicked, this, [this] { step(1); });
    connect(play_, &QPushButton::clicked, this, &EvidencePanel::togglePlay);
    connect(propose_, &QPushButton::clicked, this, &EvidencePanel::proposeLineUp);
}

void EvidencePanel::showEvent(QShowEvent*) {
    play_->setText("Play");  // hiding it stopped it
    if (stale_) rebuild();
    follow();
}

/// Players stay while their source does: a held picture is not lost to somebody's label.
void EvidencePanel::rebuild() {
    stale_ = false;
    std::vector<FramePlayer*> kept;
    for (const EvidenceSource& source : session_.study().judgement().evidence()) {
        if (source.asset && source.asset != session_.view().asset()) continue;
        const auto known = std::find_if(players_.begin(), players_.end(), [&](const FramePlayer* p) {
            return p->source().id == source.id && p->source().path == source.path;
        });
        if (known != players_.end()) {
            (*known)->setSource(source);
            kept.push_back(*known);
            continue;
        }
        auto* made = new FramePlayer(session_, source);
        connect(made, &FramePlayer::lineUpAsked, this, [this, made] { lineUpByHand(made); });
        pictures_->addWidget(made, 1);
        kept.push_back(made);
    }
    for (FramePlayer* p : players_)
        if (std::find(kept.begin(), kept.end(), p) == kept.end()) p->deleteLater();
    players_ = kept;
    empty_->setVisible(players_.empty());
    propose_->setEnabled(!players_.empty());
    follow();
}

void EvidencePanel::follow() {
    if (!isVisible()) return;
    for (FramePlayer* p : players_) p->follow(session_.view().cursor(0));
    fillLog();
}

void EvidencePanel::fillLog() {
    const auto cursor = session_.view().cursor(0);
    if (!cursor)
        return log_->setText("Put the cursor somewhere (C): what was written around it stands here.");
    std::vector<Span> near;
    for (const Span& s : session_.study().tracks().spansOf(track_kind::kLog))
        if ((!s.asset || s.asset == session_.view().asset()) &&
            std::chrono::abs(s.start - *cursor) <= kLogReach)
            near.push_back(s);
    std::sort(near.begin(), near.end(), [&](const Span& a, const Span& b) {
        return std::chrono::abs(a.start - *cursor) < std::chrono::abs(b.start - *cursor);
    });
    if (near.size() > kLogLines) near.resize(kLogLines);
    std::sort(near.begin(), near.end(), [](const Span& a, const Span& b) { return a.start < b.start; });
    QStringList lines;
    for (const Span& s : near)
        lines << QString("%1  %2").arg(QString::fromStdString(session_.zone().shortText(s.start)),
                                       QString::fromStdString(factText(s.facts, "text")));
    log_->setText(lines.isEmpty() ? "Nothing was written within twelve hours." : lines.join("\n"));
}

void EvidencePanel::moveCursor(Instant t) {
    const TimeRange view = session_.view().view();
    session_.view().setCursor(0, t);
    if (t < view.from || t >= view.to) {
        const Instant from = t - view.length() / 10;
        session_.view().setView({from, from + view.length()}, false);
    }
}

void EvidencePanel::togglePlay() {
    if (timer_->isActive()) {
        timer_->stop();
    } else {
        if (!session_.view().cursor(0)) {
            const auto start = first() ? first()->pictures().start() : std::nullopt;
            moveCursor(start ? *start + first()->source().offset : session_.view().view().from);
        }
        timer_->start();
    }
    play_->setText(timer_->isActive() ? "Pause" : "Play");
}

void EvidencePanel::tick() {
    const auto cursor = session_.view().cursor(0);
    const Instant next = cursor.value_or(session_.view().view().from) +
                         kSpeeds[static_cast<std::size_t>(speed_->currentIndex())] * kTickMs * kMillisecond;
    if (next >= session_.view().record().to) return togglePlay();
    moveCursor(next);
}

void EvidencePanel::step(int frames) {
    for (FramePlayer* p : players_)
        if (p->held()) return p->stepHeld(frames);
    if (!first()) return;
    if (const auto to = first()->further(frames)) moveCursor(*to);
}

void EvidencePanel::lineUpByHand(FramePlayer* player) {
    const auto frame = player->frameTime();
    const auto cursor = session_.view().cursor(0);
    if (!frame || !cursor) {
        emit session_.failed("Hold a picture, and put the cursor (C) at the same moment of the trace.");
        return;
    }
    const Duration offset = offsetFor(*frame, *cursor);
    const EvidenceId id = player->source().id;
    const std::string how = "two moments lined up by hand: " + toIso(*frame) + " and " + toIso(*cursor);
    player->holdButton()->setChecked(false);
    session_.tryChange([&] { session_.report(setEvidenceOffset(session_.study(), id, offset, how)); });
}

void EvidencePanel::proposeLineUp() {
    const Tag* tag = session_.tag(session_.view().tag());
    const FramePlayer* player = nullptr;
    const FrameFolder* pictures = nullptr;
    for (const FramePlayer* p : players_)
        if (const auto* folder = dynamic_cast<const FrameFolder*>(&p->pictures());
            folder && folder->frames().size() > 1 && !pictures)
            player = p, pictures = folder;
    if (!pictures || !tag) {
        emit session_.failed(
            tag ? "Only frames of a folder can be compared with a tag. Line up what is here by hand: Hold "
                  "it, and put the cursor at the same moment."
                : "Choose the tag that the pictures show, in the plant panel.");
        return;
    }
    session_.runJob(
        this, "line up", "Lining up the clock",
        [this, frames = pictures->frames(), folder = pictures->folder(), tag = *tag,
         id = player->source().id](JobContext& job) -> std::function<void()> {
            const std::vector<double> brightness = brightnessOf(folder, frames);
            std::vector<Instant> times;
            for (const Frame& f : frames) times.push_back(f.time);
            const Series values = job.study.readForFigures(
                tag, {times.front() - kMost - kHour, times.back() + kMost + kHour}, Which::Mended);
            const auto found = matchClock(times, brightness, values, tag.bridging(), kMost, kStep);
            return [this, found, id, name = tag.name] {
                if (!session_.report(found)) return;
                const std::string how = QString("brightness against %1, correlation %2, %3 elsewhere")
                                            .arg(QString::fromStdString(name))
                                            .arg(found->correlation, 0, 'f', 2)
                                            .arg(found->elsewhere, 0, 'f', 2)
                                            .toStdString();
                session_.tryChange(
                    [&] { session_.report(setEvidenceOffset(session_.study(), id, found->offset, how)); });
                emit session_.notified("Clock set: " + QString::fromStdString(how) + ". Undo takes it back.");
            };
        });
}

void EvidencePanel::add(EvidenceKind kind) {
    auto source = askForEvidence(this, session_, kind);
    if (!source) return;
    source->asset = session_.view().asset();
    session_.tryChange([&] { session_.report(keepEvidence(session_.study(), *source)); });
}

void EvidencePanel::removeSource() {
    QStringList names;
    for (const FramePlayer* p : players_) names << QString::fromStdString(p->source().name);
    if (names.isEmpty()) return;
    bool good = false;
    const QString name =
        QInputDialog::getItem(this, "Remove evidence", "The files themselves stay", names, 0, false, &good);
    if (!good) return;
    for (const FramePlayer* p : players_)
        if (QString::fromStdString(p->source().name) == name)
            session_.tryChange([&] { session_.report(removeEvidence(session_.study(), p->source().id)); });
}

}  // namespace jacinth::app
