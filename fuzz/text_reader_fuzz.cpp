// The text reader against any bytes: no crash, no hang, rows the same whatever the size of the pieces, and a
// file that is refused leaves the study as it was.
#include <unistd.h>

#include <filesystem>
#include <memory>

#include "fuzz/demand.h"
#include "source/chunks.h"
#include "source/import_samples.h"
#include "source/parse_rows.h"
#include "store/imports.h"
#include "store/study_database.h"

using namespace jacinth;

namespace {

/// Samples and bad rows of a text read in pieces of a size; none where the text cannot be unpacked.
std::optional<std::pair<std::size_t, std::size_t>> readInPieces(const TextSource& source,
                                                                const TextLayout& layout, std::size_t size) {
    ChunkReader chunks(source, layout.coding, size);
    std::size_t samples = 0, bad = 0;
    while (true) {
        const auto chunk = chunks.next();
        if (!chunk) return {};
        if (!*chunk) return std::pair{samples, bad};
        const ParsedRows rows =
            parseRows((*chunk)->text, layout, "K 1", {}, TimeReader(layout.timeFormat, Zone()));
        demand(rows.lines == (*chunk)->lines, "every line is accounted for");
        for (const auto& tag : rows.tags) samples += tag->series.size();
        bad += static_cast<std::size_t>(rows.aside.rows + rows.aside.cells);
    }
}

std::unique_ptr<Study> freshStudy() {
    static const std::string path = "/dev/shm/jacinth-fuzz-" + std::to_string(::getpid()) + ".jacinth";
    for (const char* end : {"", "-wal", "-shm"}) std::filesystem::remove(path + end);
    auto study = std::move(*Study::create(path));
    databaseOf(*study).run("PRAGMA synchronous = OFF");
    return study;
}

void importIt(const TextSource& source, const LayoutHints& hints) {
    static std::unique_ptr<Study> study;
    static int used = 0;
    if (!study || ++used % 200 == 0) {
        study.reset();
        study = freshStudy();
    }
    const std::size_t imports = study->imports().all().size(), tags = study->catalog().tags().size();
    const auto result = importSamples(*study, source, hints);
    if (!result) {
        demand(!result.error().message.empty(), "a refusal says why");
        // A refusal comes before anything is stored.
        demand(study->imports().all().size() == imports && study->catalog().tags().size() == tags,
               "a refused file leaves the study as it was");
    }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size > 1 << 16) return 0;
    const std::string_view bytes(reinterpret_cast<const char*>(data), size);
    const TextSource source{"fuzzed", bytes, {}};
    LayoutHints hints;
    hints.asset = "K 1";
    if (size % 3 == 1) hints.longForm = true;
    const auto preview = previewImport(nullptr, source, hints);
    if (preview) {
        // What a tag holds may depend on the piece it is first seen in, which the import settles and this
        // does not: slips and samples are counted together.
        const auto whole = readInPieces(source, preview->layout, 1 << 20),
                   pieces = readInPieces(source, preview->layout, 64);
        demand(whole.has_value() == pieces.has_value(), "pieces end the same way");
        if (whole)
            demand(whole->first + whole->second == pieces->first + pieces->second,
                   "pieces give the same rows");
    }
    (void)checkGzip(source);
    if (size % 8 == 0) importIt(source, hints);
    return 0;
}
