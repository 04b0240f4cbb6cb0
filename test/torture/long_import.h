// An import that takes long enough to be killed in any part of it, into the study of full_study.h.
#pragma once

#include <string>

namespace jacinth::test {

/// A text file with so many rows, a sample every 5 s, of two tags that the full study has and a new one.
std::string longFile(int rows);

/// All logged samples of all tags that no expression gives, as one number.
std::size_t samplesOf(const std::string& path);

/// The study before the import, the file, and what an undisturbed import gives, in a folder of their own.
class LongImport {
  public:
    LongImport(const std::string& folder, int rows);

    const std::string& file() const { return file_; }
    std::string freshCopy() const;  ///< path of a study that nothing was imported into yet

    enum class Killed { Before, InTheMiddle, After };
    /// After a kill: the study opens, is clean, holds the batches that it says it holds, and a repeat of the
    /// import gives what an undisturbed one gives. When the kill fell. Fails the test otherwise.
    Killed completeAfterKill(const std::string& path) const;

  private:
    std::size_t importInto(const std::string& path) const;
    std::string folder_, file_;
    std::size_t undisturbed_ = 0;
};

}  // namespace jacinth::test
