// What the derived tags of a study are made of, and what their samples were made from.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth {

class Catalog;
class Database;
class SampleStore;

/// Member of the definition of a derived tag that is calculated again by itself: its text in the expression
/// language.
inline constexpr const char* kExpression = "expression";

/// Origin of the samples of a derived tag by expression.
struct DerivedState {
    std::string madeFrom;  ///< JSON: the expression and what it read, in which state; empty while under way
    Instant at{};
    std::string trouble;  ///< why it has no samples; empty for none
};

/// Throws StoreError where the file fails.
class DerivedCatalog {
  public:
    /// All must outlive this.
    DerivedCatalog(Database& db, Catalog& catalog, SampleStore& samples)
        : db_(db), catalog_(catalog), samples_(samples) {}

    std::vector<TagId> tags() const;
    nlohmann::json definition(TagId tag) const;  ///< null for a tag that was logged
    DerivedState state(TagId tag) const;

    // Inside Study::changeDerived or changeWithSamples.
    void putDefinition(TagId tag, const nlohmann::json& definition);
    void removeTag(TagId tag);  ///< with its fixes; its samples must be gone before

    /// What no undo takes back: samples that are calculated again by themselves, and how they stand. In the
    /// caller's transaction.
    void setState(TagId tag, const DerivedState& state);
    void dropSamples(TagId tag);

  private:
    Database& db_;
    Catalog& catalog_;
    SampleStore& samples_;
};

}  // namespace jacinth
