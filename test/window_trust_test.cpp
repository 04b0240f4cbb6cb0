// Trust and sign-off in the window: painted on the stretch of the current fix, seen under the trace and at
// the pointer, refused to those who fixed it themselves, kept; the scales in their dialog.
#include <QComboBox>
#include <QDialogButtonBox>
#include <QPlainTextEdit>
#include <QTimer>

#include "app/mend/mend_bench.h"
#include "app/plot/trust_bands.h"
#include "app/window/trust_dialog.h"
#include "store/judgement.h"
#include "store/trust_marks.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"
#include "work/mend/trust.h"

namespace jacinth::test {
namespace {

class TrustWindow : public ::testing::Test {
  protected:
    TrustWindow() : folder("window-trust") {
        copyDemo(folder / "s.jacinth");
        start();
    }
    void start() {
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 3/Bed ΔP");
        d->bench(app::BenchId::Mend);
        d->settle();
    }
    void choose(const char* box, const QString& grade) {
        auto* combo = d->find<QComboBox>(box);
        combo->setCurrentIndex(combo->findText(grade));
    }
    TagId tag() { return d->tagId("Kiln 3/Bed ΔP"); }
    std::vector<GradedStretch> trust() {
        return trustOf(d->study(), tag(), d->study().record(), Which::Mended);
    }
    std::vector<GradedStretch> signOff() { return signOffOf(d->study(), tag(), d->study().record()); }
    QString says() { return d->find<QLabel>("trustSays")->text(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(TrustWindow, AStretchIsPaintedSeenUndoneAndKept) {
    EXPECT_TRUE(says().contains("not judged"));
    EXPECT_FALSE(d->find<QPushButton>("paintTrust")->isEnabled());
    d->click("kindShift");
    const Fix draft = d->window().mend()->draft();
    choose("trustGrade", "doubtful");
    choose("signOffGrade", "checked");
    d->click("paintTrust");
    d->settle();
    ASSERT_EQ(trust().size(), 1u);
    EXPECT_EQ(trust()[0].grade, "doubtful");
    EXPECT_EQ(trust()[0].range.from, draft.from);
    ASSERT_EQ(signOff().size(), 1u);
    EXPECT_TRUE(says().contains("doubtful")) << says().toStdString();
    EXPECT_EQ(d->find<QComboBox>("trustGrade")->currentIndex(), 0);
    const Instant inside = draft.from + (draft.to - draft.from) / 2;
    EXPECT_TRUE(app::trustWords(d->session(), tag(), inside).contains("doubtful (M. L.) · checked (M. L.)"))
        << app::trustWords(d->session(), tag(), inside).toStdString();
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(trust().empty() && signOff().empty()) << "both grades are one step";
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_EQ(trust().size(), 1u);
    d.reset();
    start();
    EXPECT_EQ(trust().size(), 1u);
}

TEST_F(TrustWindow, SeveralTagsArePaintedAtOnceAsOneStep) {
    choose("trustGrade", "doubtful");
    choose("trustOf", "every tag of the asset");
    d->click("paintTrust");
    d->settle();
    std::size_t painted = 0, all = 0;
    for (const Tag& t : d->study().catalog().tags()) {
        if (t.assetName == "Kiln 3") ++all;
        const auto marks = trustOf(d->study(), t.id, d->study().record(), Which::Mended);
        if (marks.empty()) continue;
        EXPECT_EQ(t.assetName, "Kiln 3");
        ++painted;
    }
    EXPECT_EQ(painted, all);
    EXPECT_EQ(d->find<QComboBox>("trustOf")->currentIndex(), 0);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(trust().empty());
    choose("trustGrade", "fair");
    choose("trustOf", "the tags shown");
    d->click("paintTrust");
    d->settle();
    for (const TagId id : d->view().shown())
        EXPECT_EQ(trustOf(d->study(), id, d->study().record(), Which::Mended).size(), 1u);
    EXPECT_EQ(trust().size(), 1u);
}

TEST_F(TrustWindow, TheBandsAreDrawnUnderTheTrace) {
    const auto picture = [&] {
        QImage image(400, 40, QImage::Format_ARGB32);
        image.fill(Qt::white);
        QPainter p(&image);
        const TimeRange record = d->study().record();
        app::drawTrustBands(p, d->session(), tag(), QRect(0, 0, 400, 40), 38, [&](Instant t) {
            return 400 * toNanoseconds(t - record.from) / toNanoseconds(record.length());
        });
        return image;
    };
    const QImage nothing = picture();
    const TimeRange record = d->study().record();
    const TimeRange half{record.from, record.from + record.length() / 2};
    ASSERT_TRUE(paintTrust(d->study(), {tag()}, half, {"sound", "signed", ""}));
    const QImage some = picture();
    EXPECT_NE(some.copy(0, 0, 190, 40), nothing.copy(0, 0, 190, 40));
    EXPECT_EQ(some.copy(210, 0, 190, 40), nothing.copy(210, 0, 190, 40));
    ASSERT_TRUE(paintTrust(d->study(), {tag()}, half, {"unusable", "signed", ""}));
    EXPECT_NE(picture(), some) << "grades look different";
}

TEST_F(TrustWindow, NobodySignsWhatTheyFixedButAnotherDoes) {
    Fix fix;
    fix.tag = tag();
    fix.body = ShiftFix{30};
    fix.from = d->view().view().from;
    fix.to = d->view().view().to;
    fix.why = "range changed";
    d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), fix)); });
    d->settle();
    EXPECT_TRUE(says().contains("fair (shift)")) << says().toStdString();
    QStringList complaints;
    QObject::connect(&d->session(), &app::Session::failed, [&](const QString& m) { complaints << m; });
    d->click("kindShift");
    choose("signOffGrade", "signed");
    d->click("paintTrust");
    EXPECT_TRUE(complaints.join(' ').contains("somebody else has to sign"))
        << complaints.join(' ').toStdString();
    EXPECT_TRUE(signOff().empty());
    d->session().setWho("R. Osen");
    choose("signOffGrade", "signed");
    d->click("paintTrust");
    d->settle();
    ASSERT_FALSE(signOff().empty());
    EXPECT_EQ(signOff()[0].grade, "signed");
    EXPECT_EQ(signOff()[0].from, "R. Osen");
}

TEST_F(TrustWindow, TheScalesAreChangedInTheirDialogAndWrongOnesAreRefused) {
    app::TrustDialog dialog(d->session(), &d->window());
    dialog.show();
    auto* trustField = dialog.findChild<QLineEdit*>("scaleTrust");
    auto* buttons = dialog.findChild<QDialogButtonBox*>();
    trustField->setText("good, good");
    QTest::mouseClick(buttons->button(QDialogButtonBox::Ok), Qt::LeftButton);
    EXPECT_TRUE(dialog.isVisible());
    EXPECT_TRUE(dialog.findChild<QLabel*>("scaleTrouble")->text().contains("taken"));
    trustField->setText("good, fair, poor");
    auto* hidden = dialog.findChild<QComboBox*>("ruleHidden");
    EXPECT_EQ(hidden->currentIndex(), 0) << "the grade it named is gone";
    hidden->setCurrentText("poor");
    dialog.findChild<QComboBox*>("soundDownTo")->setCurrentText("good");
    dialog.findChild<QPlainTextEdit*>("scaleWho")->setPlainText("signed: R. Osen, M. L.");
    QTest::mouseClick(buttons->button(QDialogButtonBox::Ok), Qt::LeftButton);
    EXPECT_FALSE(dialog.isVisible());
    const TrustSettings now = trustSettingsOf(d->study());
    EXPECT_EQ(now.trust, (std::vector<std::string>{"good", "fair", "poor"}));
    EXPECT_EQ(now.hidden, "poor");
    EXPECT_EQ(now.soundDownTo, "good");
    EXPECT_EQ(now.who.at("signed"), (std::vector<std::string>{"R. Osen", "M. L."}));
    d->settle();
    EXPECT_GE(d->find<QComboBox>("trustGrade")->findText("poor"), 0);
}

}  // namespace
}  // namespace jacinth::test
