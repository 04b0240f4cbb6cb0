// How proofs read on screen.
#pragma once

#include <QColor>
#include <QString>

#include "app/base/theme.h"
#include "core/prove/rule.h"

namespace jacinth::app {

/// The four grades, the least first.
QStringList severityWords();
/// “6 of 7 caught, 0.12 false alarms an asset-month”.
QString scoreInOneLine(const Proof& proof);
QString percentText(const Proportion& p);  ///< “86 % (49 – 97 %)”, or that there is none
QString alarmWord(Verdict verdict);
QString failureWord(const FailureVerdict& failure);
/// Good, bad or neither.
QColor inkOf(Verdict verdict, const Theme& theme);
QColor inkOf(const FailureVerdict& failure, const Theme& theme);
/// Of several rules that are compared, by their places.
QColor inkOfRule(std::size_t rule, const Theme& theme);

}  // namespace jacinth::app
