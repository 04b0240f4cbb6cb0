// The steps that can be undone, and the ledger of who did what and why.
#pragma once

#include <cstdint>
#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth {

class Database;
class DerivedCatalog;
using Blob = std::vector<std::uint8_t>;

struct LedgerEntry {
    std::int64_t id = 0;
    Instant at{};
    std::string who, what, why, detail;
};

/// An undoable step, and whose it is.
struct UndoableStep {
    StepId id;
    std::string name;
    std::string who;
    bool ours = true;  ///< made by this program since it was started, or before steps said by whom
    /// Samples came in, or went with the removal of an import: on record for its place among the steps, but
    /// not undone itself.
    bool isImport = false;
    std::int64_t bytes = 0;  ///< of what it changed: how long undoing it takes
};

/// Steps are recorded as changesets of the tables they may touch. Throws StoreError where the file fails.
class History {
  public:
    /// `reload` drops what the study has cached, after a step that failed or was undone. All must outlive
    /// this.
    History(Database& db, DerivedCatalog& derived, const std::string& who, std::function<void()> reload)
        : db_(db), derived_(derived), who_(who), reload_(std::move(reload)) {}

    /// See Study::change, changeWithSamples and changeDerived.
    void change(const std::string& name, const std::string& why, const nlohmann::json& detail,
                const std::function<void()>& work);
    void changeWithSamples(const std::string& name, const std::string& why, const nlohmann::json& detail,
                           const std::function<void()>& work);
    void changeDerived(const std::string& name, const std::string& why, const nlohmann::json& detail,
                       const std::vector<TagId>& emptied, const std::function<void()>& work);

    /// What undo and redo would do next; none where there is nothing.
    std::optional<UndoableStep> nextUndo() const;
    std::optional<UndoableStep> nextRedo() const;
    /// Names of the same; empty where there is nothing.
    std::string undoName() const;
    std::string redoName() const;
    /// The step that undo would take back if imports after it were passed over; none where there is none.
    std::optional<UndoableStep> nextUndoPastImports() const;
    /// With `step` only where that is the one that is next: never a step that the user has not seen. Fails
    /// where the next one is an import, unless it is to be passed over; and on a step that changed the
    /// samples, the kind or the states of a tag that later imports changed too.
    enum class Imports { Stop, PassOver };
    Status undo(StepId step = {}, Imports imports = Imports::Stop);
    Status redo(StepId step = {});
    StepId newest() const;  ///< of the steps that are not undone; none for none
    /// Makes one step of the newest two, under the name of the newer, where `first` is the older of them: for
    /// work that has to commit half-way. Does nothing where another step has come between, or was undone
    /// since.
    void join(StepId first);
    void forget();  ///< nothing before can be undone

    std::vector<LedgerEntry> ledger() const;
    /// Puts an import, or its removal, among the steps; what was undone before it cannot be redone. Inside a
    /// transaction of the caller's.
    void noteImport(ImportId import, const std::string& name);
    /// An entry that no undo takes back (an import, for one). Inside a transaction of the caller's.
    void enterInLedger(const std::string& what, const std::string& why, const nlohmann::json& detail);

  private:
    Status step(bool undoing, StepId only, Imports imports);
    std::optional<UndoableStep> next(const char* where) const;
    std::string importSince(StepId step, const Blob& changes) const;
    void changeIn(const std::vector<std::string>& tables, const std::string& name, const std::string& why,
                  const nlohmann::json& detail, const std::function<void()>& before,
                  const std::function<void()>& work);

    Database& db_;
    DerivedCatalog& derived_;
    const std::string& who_;
    std::function<void()> reload_;
};

}  // namespace jacinth
