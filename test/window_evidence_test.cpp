// Evidence beside the traces, driven by mouse and keys: a folder of frames, a video and a picture of one
// asset, together; what is not there or cannot be shown.
#include <QComboBox>

#include "app/base/time_field.h"
#include "app/label/label_bench.h"
#include "store/judgement.h"
#include "test/dialogs.h"
#include "test/make_video.h"
#include "test/window_driver.h"
#include "work/label/evidence_files.h"

namespace jacinth::test {
namespace {

class EvidenceWindow : public ::testing::Test {
  protected:
    EvidenceWindow() : folder("window-evidence") {
        copyDemo(folder / "demo.jacinth");
        EXPECT_EQ(run({"evidence", "remove", folder / "demo.jacinth", "--name", "Sight glass"}).code, 0);
        d = std::make_unique<WindowDriver>(folder / "demo.jacinth");
        const Asset& asset = *d->study().catalog().assetNamed("Kiln 3");
        const Tag* tag = d->study().catalog().tagInRole(asset.id, "gas_flow");
        d->view().select(asset.id, tag->id);
        d->view().setShown({tag->id});
        d->view().setBench(app::BenchId::Label);
        begin = std::chrono::floor<std::chrono::seconds>(d->view().record().from + 10 * kDay);
        d->view().setView({begin - kHour, begin + kHour});
        d->settle();
        d->click("showEvidence");
    }
    app::EvidencePanel& panel() { return *d->window().label()->marks()->evidence(); }
    app::TimePlot* plot() { return d->window().label()->plot(); }
    app::FramePlayer* player(std::size_t i) { return panel().players().at(i); }
    std::vector<EvidenceSource> evidence() { return d->study().judgement().evidence(); }
    /// Takes the command of the button Add.
    void add(const QString& command) {
        for (QAction* a : d->find<QPushButton>("evidenceAdd")->menu()->actions())
            if (a->text() == command) a->trigger();
        d->settle();
    }
    void cursor(Instant t) {
        d->view().setCursor(0, t);
        d->settle();
    }
    /// How bright the picture that is seen is; −1 for none.
    static int brightnessOf(const app::FramePlayer* p) {
        const QPixmap pixmap = p->picture()->pixmap(Qt::ReturnByValue);
        return pixmap.isNull() ? -1 : qGray(pixmap.toImage().pixel(pixmap.width() / 2, pixmap.height() / 2));
    }
    /// What a grey of a video is on the screen: 16 is its black and 235 its white (ITU-R BT.601).
    static int ofVideo(int grey) { return static_cast<int>(std::lround((grey - 16) * 255 / 219.0)); }
    /// A video decodes beside the interface thread.
    static bool becomes(const app::FramePlayer* p, int brightness) {
        return QTest::qWaitFor([&] { return std::abs(brightnessOf(p) - brightness) <= 4; }, 5000);
    }
    std::string nameAt(const char* before, Instant t, const char* ending) {
        std::string digits;
        for (const char c : toIso(t))
            if (std::isdigit(static_cast<unsigned char>(c))) digits += c;
        return before + digits.substr(0, 8) + "-" + digits.substr(8, 6) + "Z" + ending;
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
    Instant begin;
};

#ifdef JACINTH_MULTIMEDIA

TEST_F(EvidenceWindow, AVideoFollowsTheCursorIsSteppedPlayedAndLinedUp) {
    // Each second is by 8 brighter than the one before; ten pictures a second.
    const std::string video = folder / nameAt("drum-", begin, ".avi");
    makeVideo(video, 200, 10, [](int i) { return 8 * (i / 10) + 20; });
    chooseFile(QString::fromStdString(video));
    add("Video…");
    ASSERT_EQ(evidence().size(), 1u);
    EXPECT_EQ(evidence()[0].kind, EvidenceKind::Video);
    EXPECT_EQ(evidence()[0].begins, begin) << "its name tells it";
    ASSERT_EQ(panel().players().size(), 1u);
    cursor(begin + 5 * kSecond + 300 * kMillisecond);
    EXPECT_TRUE(becomes(player(0), ofVideo(60))) << brightnessOf(player(0));
    cursor(begin + 15 * kSecond + 300 * kMillisecond);
    EXPECT_TRUE(becomes(player(0), ofVideo(140))) << brightnessOf(player(0));
    cursor(begin + 2 * kSecond + 300 * kMillisecond);
    EXPECT_TRUE(becomes(player(0), ofVideo(36))) << brightnessOf(player(0));
    EXPECT_EQ(*player(0)->shown(), begin + 2 * kSecond + 300 * kMillisecond);
    // Beside what was filmed nothing is seen, and it says so.
    cursor(begin + kMinute);
    EXPECT_TRUE(player(0)->picture()->text().contains("Nothing was filmed"));
    // The steps go into it again, by pictures.
    d->key(plot(), Qt::Key_Comma);
    EXPECT_LT(*d->view().cursor(0), begin + 20 * kSecond);
    EXPECT_TRUE(becomes(player(0), ofVideo(172))) << brightnessOf(player(0));
    // Held, the cursor somewhere else, the same moment.
    cursor(begin + 5 * kSecond + 500 * kMillisecond);
    ASSERT_TRUE(becomes(player(0), ofVideo(60)));
    d->click("evidenceHold");
    cursor(begin + 45 * kSecond + 500 * kMillisecond);
    EXPECT_TRUE(becomes(player(0), ofVideo(60))) << "it is held";
    d->key(plot(), Qt::Key_Comma);
    EXPECT_EQ(*d->view().cursor(0), begin + 45 * kSecond + 500 * kMillisecond)
        << "the picture alone is stepped";
    QTest::qWait(100);
    d->key(plot(), Qt::Key_Period);
    QTest::qWait(100);
    d->click("evidenceLineUp");
    EXPECT_EQ(evidence()[0].offset, 40 * kSecond);
    cursor(begin + 55 * kSecond + 300 * kMillisecond);
    EXPECT_TRUE(becomes(player(0), ofVideo(140))) << "15 s of the video";
    // Played: both go on.
    auto* speed = d->find<QComboBox>("evidenceSpeed");
    speed->setCurrentIndex(0);
    cursor(begin + 41 * kSecond);
    d->key(plot(), Qt::Key_Space);
    QTest::qWait(1600);
    d->key(plot(), Qt::Key_Space);
    EXPECT_GT(*player(0)->shown(), begin + 42 * kSecond);
    // The brightness of a video is not compared with a tag, and that is said.
    d->click("evidencePropose");
    EXPECT_TRUE(d->statusText().contains("by hand: Hold")) << d->statusText().toStdString();
}

TEST_F(EvidenceWindow, AFileThatIsNoVideoSaysSo) {
    const std::string path = folder / nameAt("not-a-video-", begin, ".avi");
    std::ofstream(path) << "these are words";
    chooseFile(QString::fromStdString(path));
    add("Video…");
    ASSERT_EQ(panel().players().size(), 1u);
    cursor(begin + kSecond);
    EXPECT_TRUE(QTest::qWaitFor(
        [&] { return player(0)->picture()->text().contains(QString::fromStdString(path)); }, 5000))
        << player(0)->picture()->text().toStdString();
    cursor(begin + 2 * kSecond);
    d->key(plot(), Qt::Key_Period);
    EXPECT_FALSE(player(0)->shown());
}

#endif

TEST_F(EvidenceWindow, APictureIsAskedForItsMomentAndStandsForHoursAfterIt) {
    const std::string path = folder / "bearing.png";
    QImage image(40, 30, QImage::Format_RGB32);
    image.fill(QColor(90, 90, 90));
    image.save(QString::fromStdString(path));
    chooseFile(QString::fromStdString(path));
    // The file dialog is answered first; then when it was taken is asked.
    auto* timer = new QTimer(&d->window());
    QObject::connect(timer, &QTimer::timeout, timer, [&, timer] {
        QWidget* dialog = QApplication::activeModalWidget();
        auto* field = dialog ? dialog->findChild<app::MomentField*>("evidenceBegins") : nullptr;
        if (!field) return;
        timer->stop();
        EXPECT_TRUE(field->moment()) << "the file's time is proposed";
        field->setText("some day");
        auto* buttons = dialog->findChild<QDialogButtonBox*>();
        EXPECT_FALSE(buttons->button(QDialogButtonBox::Ok)->isEnabled());
        field->setMoment(begin);
        QTest::mouseClick(buttons->button(QDialogButtonBox::Ok), Qt::LeftButton);
    });
    timer->start(50);
    add("Picture…");
    ASSERT_EQ(evidence().size(), 1u);
    EXPECT_EQ(evidence()[0].name, "bearing");
    EXPECT_EQ(evidence()[0].path, "bearing.png") << "from where the study lies";
    EXPECT_EQ(evidence()[0].begins, begin);
    cursor(begin + 5 * kHour);
    EXPECT_TRUE(becomes(player(0), 90));
    EXPECT_EQ(*player(0)->shown(), begin);
    cursor(begin - kMinute);
    EXPECT_FALSE(player(0)->shown());
    d->key(plot(), Qt::Key_Period);
    EXPECT_EQ(*d->view().cursor(0), begin) << "a step goes to it";
    d->click("evidencePropose");
    EXPECT_TRUE(d->statusText().contains("Only frames of a folder")) << d->statusText().toStdString();
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(evidence().empty());
    EXPECT_TRUE(panel().players().empty());
}

TEST_F(EvidenceWindow, TwoOfOneNameStandBesideEachOther) {
    for (const char* sub : {"a", "b"}) {
        fs::create_directories(folder / sub);
        QImage image(40, 30, QImage::Format_RGB32);
        image.fill(*sub == 'a' ? QColor(60, 60, 60) : QColor(180, 180, 180));
        const fs::path path = fs::path(folder / sub) / nameAt("door-", begin, ".png");
        image.save(QString::fromStdString(path.string()));
        chooseFile(QString::fromStdString(path.string()));
        add("Picture…");
    }
    ASSERT_EQ(evidence().size(), 2u);
    EXPECT_EQ(evidence()[1].name, evidence()[0].name + " 2");
    ASSERT_EQ(panel().players().size(), 2u);
    cursor(begin + kHour);
    EXPECT_TRUE(becomes(player(0), 60));
    EXPECT_TRUE(becomes(player(1), 180));
    // Both lie one under the other, neither over its own words.
    for (const app::FramePlayer* p : panel().players()) {
        EXPECT_GE(p->picture()->height(), 90);
        EXPECT_GE(p->picture()->height(), p->picture()->pixmap(Qt::ReturnByValue).height());
    }
    EXPECT_GE(player(1)->geometry().top(), player(0)->geometry().bottom());
}

TEST_F(EvidenceWindow, WhatCannotBeShownIsNotAdded) {
    std::ofstream(folder / nameAt("words-", begin, ".txt")) << "words";
    chooseFile(QString::fromStdString(folder / nameAt("words-", begin, ".txt")));
    add("Picture…");
    EXPECT_TRUE(evidence().empty());
    EXPECT_TRUE(d->statusText().contains("is not a picture")) << d->statusText().toStdString();
    dismissDialog();
    add("Video…");
    EXPECT_TRUE(evidence().empty());
}

}  // namespace
}  // namespace jacinth::test
