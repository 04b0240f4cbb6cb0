// Tracks of a study and the spans on them: runs, excursions, labels, failures and whatever else is recorded
// as a stretch of time.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/span/span.h"

namespace jacinth {

class Database;

/// What kind of spans a track holds, by name in the file.
namespace track_kind {
inline constexpr const char* kRuns = "runs";
inline constexpr const char* kExcursions = "excursions";
inline constexpr const char* kLabels = "labels";
inline constexpr const char* kFailures = "failures";
inline constexpr const char* kStops = "stops";
inline constexpr const char* kWorkOrders = "work-orders";
inline constexpr const char* kReadings = "readings";
inline constexpr const char* kLog = "log";
inline constexpr const char* kAlarms = "alarms";
inline constexpr const char* kBatches = "batches";
inline constexpr const char* kPhases = "phases";
inline constexpr const char* kTrust = "trust";
}  // namespace track_kind

struct Track {
    TrackId id;
    std::string name;
    std::string kind;
    std::string definition;  ///< JSON: how its spans were found
};

/// Reads what is on file each time: nothing is cached. What changes something is called inside Study::change,
/// which makes it undoable. Throws StoreError where the file fails.
class Tracks {
  public:
    explicit Tracks(Database& db) : db_(db) {}

    std::vector<Track> all() const;  ///< in order of creation
    std::optional<Track> named(const std::string& name) const;
    std::optional<Track> firstOf(const std::string& kind) const;
    std::vector<Span> spans(TrackId track) const;  ///< by start
    /// Where they are and when, without their facts: a tenth of the work. By start.
    std::vector<std::pair<AssetId, TimeRange>> extents(TrackId track) const;
    std::vector<Span> spansOf(const std::string& kind) const;  ///< over all tracks of that kind, by start
    /// Those of these spans that are on tracks of that kind, by start.
    std::vector<Span> spansOf(const std::string& kind, const std::vector<SpanId>& ids) const;
    std::optional<Span> span(SpanId id) const;
    /// The first track with spans about this tag, and how many; none where no span is.
    std::optional<std::pair<std::string, std::int64_t>> spansAbout(TagId tag) const;

    /// Makes the track, or gives the one of that name its new definition. Throws StoreError for a name that
    /// cannot be one, or that a track of another kind has.
    TrackId put(const std::string& name, const std::string& kind, const std::string& definition = "{}");
    void setDefinition(TrackId track, const std::string& definition);
    void clear(TrackId track);   ///< removes its spans, with their golden marks
    void remove(TrackId track);  ///< with its spans
    SpanId addSpan(TrackId track, const Span& span, ImportId import = {});
    void updateSpan(const Span& span);
    void removeSpan(SpanId id);  ///< with its golden mark

  private:
    Database& db_;
};

}  // namespace jacinth
