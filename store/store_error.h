// What is thrown where the disk or the file of a study fails.
#pragma once

#include <stdexcept>

namespace jacinth {

/// The disk or the file failed. `what()` is fit for the user.
class StoreError : public std::runtime_error {
  public:
    using std::runtime_error::runtime_error;
};

}  // namespace jacinth
