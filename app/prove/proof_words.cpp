#include "app/prove/proof_words.h"

#include <cmath>

namespace jacinth::app {

QStringList severityWords() {
    return {"1 · note", "2 · look at it soon", "3 · act today", "4 · act now"};
}

QString scoreInOneLine(const Proof& proof) {
    return QString("%1 of %2 caught, %3 false alarms an asset-month")
        .arg(proof.caught)
        .arg(proof.caught + proof.missed)
        .arg(proof.falsePerAssetMonth, 0, 'f', proof.falsePerAssetMonth < 10 ? 2 : 0);
}

QString percentText(const Proportion& p) {
    return std::isfinite(p.value) ? QString("%1 % (%2 – %3 %)")
                                        .arg(p.value * 100, 0, 'f', 0)
                                        .arg(p.low * 100, 0, 'f', 0)
                                        .arg(p.high * 100, 0, 'f', 0)
                                  : QString("none to count");
}

QString alarmWord(Verdict verdict) {
    return verdict == Verdict::True ? QString("came true") : QString(verdictName(verdict));
}

QString failureWord(const FailureVerdict& failure) {
    if (!failure.testable) return "untestable: " + QString::fromStdString(failure.reason);
    return failure.caught ? QString("caught") : failure.late ? QString("late") : QString("missed");
}

QColor inkOf(Verdict verdict, const Theme& theme) {
    return verdict == Verdict::True ? theme.good : verdict == Verdict::False ? theme.accent : theme.second;
}

QColor inkOf(const FailureVerdict& failure, const Theme& theme) {
    return failure.caught ? theme.good : failure.testable ? theme.accent : theme.second;
}

QColor inkOfRule(std::size_t rule, const Theme& theme) {
    return theme.traces[rule % theme.traces.size()];
}

}  // namespace jacinth::app
