// One visitor of a variant made of several lambdas. A kind that no lambda takes does not compile.
#pragma once

namespace jacinth {

template <typename... Lambdas>
struct Overloaded : Lambdas... {
    using Lambdas::operator()...;
};
template <typename... Lambdas>
Overloaded(Lambdas...) -> Overloaded<Lambdas...>;

}  // namespace jacinth
