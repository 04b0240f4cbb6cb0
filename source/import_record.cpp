#include "source/import_record.h"

#include <fmt/format.h>

#include <algorithm>

#include "store/store_error.h"

namespace jacinth {
namespace {

Status storable(BlockStream& stream, ImportResult& result) {
    std::vector<std::string> notes;
    const Status same = stream.stillTrue(notes);
    for (std::string& note : notes)
        if (std::find(result.notes.begin(), result.notes.end(), note) == result.notes.end())
            result.notes.push_back(std::move(note));
    if (same) return Done{};
    return Error{fmt::format("{}; of it {} samples of whole batches are stored. Import it again",
                             same.error().message, result.samples + result.replaced)};
}

Status copyBlocks(BlockStream& stream, RecordWriter& writer, const std::string& name, ImportResult& result,
                  const Progress& progress) {
    while (true) {
        auto block = stream.next();
        if (!block) return block.error();
        if (!*block) break;
        writer.add(**block);
        if (writer.full()) {
            if (const Status same = storable(stream, result); !same) return same.error();
            writer.commit(false);
        }
        if (progress.stopped(stream.share())) {
            result.cancelled = true;
            return Done{};
        }
    }
    if (const Status same = storable(stream, result); !same) return same.error();
    if (writer.nothingRead()) {
        const BadRow first = result.badRows.empty() ? BadRow{} : result.badRows.front();
        return Error{
            fmt::format("{}: none of its {} rows can be read; line {}: {}. Nothing of it was imported", name,
                        result.rows, first.line, first.reason)};
    }
    writer.commit(true);
    return Done{};
}

Status canChoose(const SourceFacts& source, const ReadRequest& request) {
    if (!request.tags.empty() && !source.choosesTags)
        return Error{fmt::format("{} can only be read with all its tags", source.name)};
    if (request.range && !source.choosesTimes)
        return Error{fmt::format("{} can only be read from its start to its end", source.name)};
    return Done{};
}

}  // namespace

Result<ImportResult> importRecord(Study& study, RecordSource& source, const ReadRequest& request,
                                  const Progress& progress) {
    const SourceFacts facts = source.facts();
    if (const Status can = canChoose(facts, request); !can) return can.error();
    ImportResult result;
    try {
        TagKinds kinds(study.catalog());
        const auto stream = source.read(request, kinds);
        if (!stream) return stream.error();
        RecordWriter writer(study, facts, kinds, request.units, result);
        if (const Status done = copyBlocks(**stream, writer, facts.name, result, progress); !done) {
            study.reload();
            return done.error();
        }
        writer.listTags();
        for (std::string& note : (*stream)->notes()) result.notes.push_back(std::move(note));
    } catch (const StoreError& e) {
        study.reload();
        return Error{e.what()};
    }
    if (result.sameTime > 0)
        result.notes.push_back(
            fmt::format("{} samples have the same tag and time as a later row of the source; the later row "
                        "stands",
                        result.sameTime));
    for (const auto& [text, count] : result.noValue)
        result.notes.push_back(fmt::format("`{}`: {} samples without a value, of bad quality", text, count));
    (void)progress.stopped(1);
    return result;
}

}  // namespace jacinth
