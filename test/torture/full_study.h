// A small study that has everything in it, made from a seed: samples, runs, phases, golden runs, limits,
// excursions, fixes, labels, readings, rules, recipes, derived tags, replaced samples, rows kept aside.
#pragma once

#include <string>

#include "store/study.h"

namespace jacinth::test {

/// Puts all of it into an empty study.
void fillStudy(Study& study, unsigned seed);

/// Everything that a user could read out of the study, as one text: tags, samples as logged and mended,
/// spans, facts, golden runs, limits, excursions of a new screening, fixes, rules, a proof. Two studies that
/// read the same give the same text. Throws what reading throws.
std::string readAll(Study& study);

/// One step of work on a study, chosen by a seed and a number: an import, a fix, limits, derived tags, a
/// label, a change of a tag, an undo. Each is done or not done as a whole.
void doStep(Study& study, unsigned seed, int number);

std::string stepName(unsigned seed, int number);  ///< what it does

}  // namespace jacinth::test
