// What is said of a fit to check readings: how sure each end is, and what on record speaks against it.
#pragma once

#include "core/mend/readings.h"
#include "store/study.h"

namespace jacinth {

/// “start fixed, end −9.5 ± 0.6 % (95 %)”; says where too few readings leave nothing to tell it by.
std::string sureWords(const RampFit& fit, bool startIsFixed, const std::string& unit);
/// “each knot ± 0.4 % (95 %)”, or that every moment has one reading.
std::string sureWords(const BendFit& fit, const std::string& unit);

/// Something on record that says a sensor was calibrated, zeroed or replaced.
struct Recalibration {
    Instant time{};  ///< its end: from there on the sensor reads differently
    std::string words;
};
/// On the asset of the fix's tag or on none, inside the stretch of the fix and not near its ends (an hour, or
/// a hundredth of the stretch), by time. What names another tag of the asset and not this one is left out.
std::vector<Recalibration> recalibrationsIn(const Study& study, const Fix& fix);
/// “a recalibration on record lies within the stretch: 4 May 2026 10:00, “RH probe recalibrated”. Fit each
/// side by itself.” Empty for none.
std::string recalibrationWords(const std::vector<Recalibration>& found, const Zone& zone);

}  // namespace jacinth
