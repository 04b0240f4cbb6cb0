// Text files, wide or long, as a source of samples.
#pragma once

#include "source/record_source.h"
#include "source/text_layout.h"

namespace jacinth {

/// A file whose layout is known. It is read with all its tags from start to end.
class TextRecord : public RecordSource {
  public:
    /// Looks through the file where its layout cannot be said from parts of it. Fails, saying what has to be
    /// decided, where nothing settles how dates or numbers are meant, where rows contradict each other, and
    /// on a packed file that is damaged. Times without an offset are read in `zone`.
    static Result<std::unique_ptr<TextRecord>> open(const TextSource& source, const LayoutHints& hints,
                                                    const Zone& zone);

    SourceFacts facts() const override;
    /// Of a long file those in its first rows.
    Result<std::vector<SourceTag>> tags(const std::string& like) override;
    Result<std::unique_ptr<BlockStream>> read(const ReadRequest& request, TagKinds& kinds) override;

  private:
    TextRecord(TextSource source, LayoutHints hints, Zone zone, TextLayout layout);
    TextSource source_;
    LayoutHints hints_;
    Zone zone_;
    TextLayout layout_;
};

}  // namespace jacinth
