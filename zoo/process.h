// What really happens in a plant of the zoo, minute by minute, before sensors read it.
#pragma once

#include <functional>

#include "zoo/plant.h"
#include "zoo/random.h"

namespace jacinth::zoo {

using Minutes = std::vector<double>;

struct Quantity {
    std::string name, unit;
    Minutes values;
};

struct Process {
    std::size_t minutes = 0;
    std::vector<Quantity> quantities;
    std::vector<int> states;  ///< of a state tag, one a minute; empty for none
    std::vector<TrueChange> changes;
};

// Signals.

/// Ornstein-Uhlenbeck: wanders about 0 with a standard deviation of 1, and forgets in `memory` minutes.
Minutes wandering(std::size_t n, double memory, Random& random);
/// A wave of 24 h whose height differs from day to day, about 1.
Minutes daily(std::size_t n, Random& random);
/// Levels held for `least` to `most` minutes, of standard deviation 1.
Minutes setPoints(std::size_t n, int least, int most, Random& random);
/// Follows `x` with a first-order time constant, in minutes.
Minutes following(const Minutes& x, double minutes);
/// `x` later by whole minutes.
Minutes later(const Minutes& x, int minutes);
/// Σ weight · signal.
Minutes mixture(const std::vector<double>& weights, const std::vector<Minutes>& signals);
/// Adds `by` from minute `from` on, within some minutes.
void moveFrom(Minutes& x, std::size_t from, double by, double withinMinutes);

/// The process of a family; its length and number of quantities from `random`.
Process processOf(Family family, Random& random);

}  // namespace jacinth::zoo
