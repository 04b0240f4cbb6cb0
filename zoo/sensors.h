// How sensors of the zoo read a process: spacing, noise, rounding, deadband, gaps.
#pragma once

#include "zoo/process.h"

namespace jacinth::zoo {

struct Sensor {
    Duration spacing{};
    double white = 0, slow = 0;  ///< standard deviations of noise from sample to sample, and that forgets
    double memory = 60;          ///< of the slow noise, in minutes
    double rounding = 0;         ///< finest difference written; 0 for none
    double deadband = 0;         ///< a value is written when it has moved by this, or after half an hour
    std::vector<TimeRange> gaps;
    std::uint64_t seed = 0;

    double noise() const;  ///< all of it, standard deviation
};

/// Sensors for the quantities of a process, each with noise of 0.5 to 5 % of how much its quantity varies.
std::vector<Sensor> sensorsFor(const Process& process, Random& random);

/// What is wrong with a sensor at one moment, added before rounding.
using Error = std::function<double(Instant)>;

Series read(const Minutes& values, const Sensor& sensor, const Error& error);

/// Of each quantity: the standard deviation, sample by sample, of what the others, read with their noise, now
/// and ten minutes before, leave unexplained (least squares with the noise of what explains allowed for).
std::vector<double> unexplained(const Process& process, const std::vector<Sensor>& sensors);

}  // namespace jacinth::zoo
