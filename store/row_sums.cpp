#include "store/row_sums.h"

#include <fmt/format.h>
#include <sqlite3.h>

#include <algorithm>
#include <bit>

namespace jacinth {
namespace {

class Fnv {
  public:
    void add(const void* bytes, std::size_t n) {
        const auto* p = static_cast<const unsigned char*>(bytes);
        for (std::size_t i = 0; i < n; ++i) state_ = (state_ ^ p[i]) * 0x100000001B3ULL;
    }
    void addNumber(std::uint64_t v) {
        for (int shift = 0; shift < 64; shift += 8) {
            const auto byte = static_cast<unsigned char>(v >> shift);
            add(&byte, 1);
        }
    }
    std::int64_t value() const {
        std::uint64_t v = state_;
        v = (v ^ (v >> 33)) * 0xFF51AFD7ED558CCDULL;
        v = (v ^ (v >> 33)) * 0xC4CEB9FE1A85EC53ULL;
        return static_cast<std::int64_t>(v ^ (v >> 33));
    }

  private:
    std::uint64_t state_ = 0xCBF29CE484222325ULL;
};

void addValue(Fnv& sum, sqlite3_value* v) {
    const int type = sqlite3_value_type(v);
    sum.addNumber(static_cast<std::uint64_t>(type));
    switch (type) {
        case SQLITE_INTEGER:
            sum.addNumber(static_cast<std::uint64_t>(sqlite3_value_int64(v)));
            break;
        case SQLITE_FLOAT:
            sum.addNumber(std::bit_cast<std::uint64_t>(sqlite3_value_double(v)));
            break;
        case SQLITE_TEXT:
        case SQLITE_BLOB: {
            const void* bytes =
                type == SQLITE_TEXT ? static_cast<const void*>(sqlite3_value_text(v)) : sqlite3_value_blob(v);
            const auto n = static_cast<std::size_t>(sqlite3_value_bytes(v));
            sum.addNumber(n);
            if (n > 0) sum.add(bytes, n);
            break;
        }
        default:
            break;
    }
}

void rowSum(sqlite3_context* context, int n, sqlite3_value** values) {
    Fnv sum;
    for (int i = 0; i < n; ++i) addValue(sum, values[i]);
    sqlite3_result_int64(context, sum.value());
}

std::vector<std::string> listed(const char* columns) {
    std::vector<std::string> out;
    std::string_view rest = columns;
    while (!rest.empty()) {
        const std::size_t end = std::min(rest.find(','), rest.size());
        out.emplace_back(rest.substr(0, end));
        rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    return out;
}

constexpr std::size_t kMostFaults = 1000;  // that are named

std::string keyEquals(const SummedTable& t, const char* row) {
    std::vector<std::string> parts;
    for (const std::string& k : listed(t.key)) parts.push_back(fmt::format("{} = {}.{}", k, row, k));
    return fmt::format("{}", fmt::join(parts, " AND "));
}

/// Empty where as many rows are there as were counted. In one statement: another connection may write.
std::string countFault(Database& db, const SummedTable& t) {
    Statement s(
        db,
        fmt::format("SELECT (SELECT count(*) FROM {0} NOT INDEXED), rows FROM row_count WHERE name = '{0}'",
                    t.name));
    if (!s.step()) return fmt::format("table {}: the count of its rows is missing", t.name);
    if (s.integer(0) == s.integer(1)) return {};
    return fmt::format("table {}: {} rows are there where {} were counted", t.name, s.integer(0),
                       s.integer(1));
}

}  // namespace

const std::vector<SummedTable>& summedTables() {
    static const std::vector<SummedTable> tables{
        {"setting", "name", "name,value", "setting"},
        {"asset", "id", "id,name,kind,facts", "asset"},
        {"tag", "id", "id,asset,name,role,unit,kind,longest_gap,spacing,facts", "tag"},
        {"state", "tag,code", "tag,code,name", "state of tag"},
        {"block", "id", "id,tag,first_time,last_time,count,usable,first,last,least,greatest,sum,spacing",
         "block", true},
        {"import", "id", "id,at,file,kind,bytes,rows,samples,bad_rows,complete,replaced,removed_at,bad_cells",
         "import"},
        {"bad_row", "id", "id,import,line,reason,text,cell", "row kept aside", true},
        {"import_part", "id", "id,import,tag,first_time,last_time,count,instants", "part of an import", true},
        {"removed_part", "id", "id,import,tag,first_time,last_time", "removed stretch", true},
        {"replaced_samples", "id", "id,import,tag,first_time,last_time,count,data", "replaced samples", true},
        {"record_change", "tag", "tag,generation", "state of the samples of tag"},
        {"track", "id", "id,name,kind,definition", "track"},
        {"span", "id", "id,track,asset,tag,start,end,facts,import", "span"},
        {"fix", "id", "id,tag,kind,start,end,start_by,end_by,is_on,why,who,entered,body,place", "fix"},
        {"golden_run", "track,span", "track,span,why", "golden run on track"},
        {"limit_set", "id", "id,name,track,body,version", "limit set"},
        {"label_kind", "name", "name,place,meaning,colour,key,normal,parent", "kind of label"},
        {"span_tag", "span,tag", "span,tag", "further tag of span"},
        {"fact_kind", "name", "name,body", "kind of fact"},
        {"evidence", "id", "id,name,body", "evidence"},
        {"rule", "id", "id,name,version,text,body", "rule"},
        {"proof", "id", "id,rule,body", "proof"},
        {"recipe", "name", "name,body", "recipe"},
        {"derived_tag", "tag", "tag,definition", "definition of derived tag"},
        {"derived_state", "tag", "tag,made_from,at,trouble", "state of derived tag"},
        {"history", "id", "id,name,changes,undone,who,origin,import", "undoable step", true}};
    return tables;
}

void addRowSumFunction(Database& db) {
    if (sqlite3_create_function_v2(db.handle(), "row_sum", -1, SQLITE_UTF8 | SQLITE_DETERMINISTIC, nullptr,
                                   rowSum, nullptr, nullptr, nullptr) != SQLITE_OK)
        db.fail("preparing checksums");
}

void keepRowSums(Database& db) {
    std::string sql = "PRAGMA temp_store = MEMORY;";
    for (const SummedTable& t : summedTables()) {
        const std::string sum = fmt::format("UPDATE {0} SET row_sum = row_sum('{0}',{1}) WHERE {2};", t.name,
                                            t.columns, keyEquals(t, "NEW"));
        const auto count = [&](const char* sign) {
            return fmt::format("UPDATE row_count SET rows = rows {} 1 WHERE name = '{}';", sign, t.name);
        };
        sql += fmt::format("CREATE TEMP TRIGGER {0}_added AFTER INSERT ON main.{0} BEGIN {1} {2} END;",
                           t.name, sum, count("+"));
        sql += fmt::format("CREATE TEMP TRIGGER {0}_changed AFTER UPDATE OF {1} ON main.{0} BEGIN {2} END;",
                           t.name, t.columns, sum);
        sql += fmt::format("CREATE TEMP TRIGGER {0}_removed AFTER DELETE ON main.{0} BEGIN {1} END;", t.name,
                           count("-"));
    }
    db.run(sql);
}

void fillRowSums(Database& db) {
    for (const SummedTable& t : summedTables()) fillRowSumsOf(db, t.name);
}

void fillRowSumsOf(Database& db, const std::string& table) {
    for (const SummedTable& t : summedTables())
        if (table == t.name)
            db.run(fmt::format("UPDATE {0} SET row_sum = row_sum('{0}',{1})", t.name, t.columns));
}

void fillRowCounts(Database& db) {
    for (const SummedTable& t : summedTables()) startRowCount(db, t.name);
}

void startRowCount(Database& db, const std::string& table) {
    db.run(fmt::format("INSERT INTO row_count(name, rows) SELECT '{0}', count(*) FROM {0}", table));
}

std::string isWhole(const std::string& table) {
    const auto found = std::find_if(summedTables().begin(), summedTables().end(),
                                    [&](const SummedTable& t) { return table == t.name; });
    if (found == summedTables().end()) throw std::logic_error("no checksums in " + table);
    std::vector<std::string> columns = listed(found->columns);
    for (std::string& c : columns) c.insert(0, table + ".");
    return fmt::format("({0}.row_sum IS row_sum('{0}',{1}))", table, fmt::join(columns, ","));
}

namespace {
void addDamageOf(Database& db, const SummedTable& t, std::vector<std::string>& out) {
    if (std::string fault = countFault(db, t); !fault.empty()) out.push_back(std::move(fault));
    const auto keys = listed(t.key);
    Statement s(db, fmt::format("SELECT {} FROM {} WHERE NOT {}", t.key, t.name, isWhole(t.name)));
    while (s.step() && out.size() < kMostFaults) {
        std::vector<std::string> key;
        for (std::size_t i = 0; i < keys.size(); ++i) key.push_back(s.text(static_cast<int>(i)));
        out.push_back(fmt::format("{} `{}`: what is stored does not agree with its checksum", t.what,
                                  fmt::join(key, ", ")));
    }
}
}  // namespace

std::vector<std::string> damagedRows(Database& db, Tables which) {
    std::vector<std::string> out;
    for (const SummedTable& t : summedTables()) {
        if (t.large && which == Tables::Small) continue;
        try {
            addDamageOf(db, t, out);
        } catch (const StoreError& e) {
            out.push_back(fmt::format("table {}: {}", t.name, e.what()));
        }
    }
    return out;
}

}  // namespace jacinth
