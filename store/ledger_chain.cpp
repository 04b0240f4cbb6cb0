#include "store/ledger_chain.h"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <algorithm>
#include <array>

namespace jacinth {
namespace {

/// Length, colon and bytes, so that no two different lines give the same text.
void add(std::string& out, const std::string& field) {
    out += fmt::format("{}:", field.size());
    out += field;
}

struct Head {
    std::int64_t lines = 0;
    std::string hash;
};

Head headOf(Database& db) {
    Statement s(db, "SELECT lines, hash FROM ledger_head WHERE one = 1");
    return s.step() ? Head{s.integer(0), s.text(1)} : Head{};
}

void setHead(Database& db, const Head& head) {
    Statement(db,
              "INSERT INTO ledger_head(one, lines, hash) VALUES(1, ?, ?) ON CONFLICT(one) DO UPDATE SET "
              "lines = excluded.lines, hash = excluded.hash")
        .bind(head.lines, head.hash)
        .run();
}

}  // namespace

std::string ledgerHash(const std::string& before, std::int64_t id, Instant at, const std::string& who,
                       const std::string& what, const std::string& why, const std::string& detail) {
    std::string bytes;
    for (const std::string& field :
         {before, std::to_string(id), std::to_string(epochNanoseconds(at)), who, what, why, detail})
        add(bytes, field);
    std::array<unsigned char, EVP_MAX_MD_SIZE> hash{};
    unsigned int size = 0;
    if (EVP_Digest(bytes.data(), bytes.size(), hash.data(), &size, EVP_sha256(), nullptr) != 1)
        throw StoreError("the ledger's checksum cannot be made");
    std::string out;
    for (unsigned int i = 0; i < size; ++i) out += fmt::format("{:02x}", hash[i]);
    return out;
}

void addLedgerLine(Database& db, Instant at, const std::string& who, const std::string& what,
                   const std::string& why, const std::string& detail) {
    Head head = headOf(db);
    const std::int64_t id = 1 + std::max(db.number("SELECT coalesce(max(id), 0) FROM ledger"), head.lines);
    head.hash = ledgerHash(head.hash, id, at, who, what, why, detail);
    ++head.lines;
    Statement(db, "INSERT INTO ledger(id, at, who, what, why, detail, hash) VALUES(?, ?, ?, ?, ?, ?, ?)")
        .bind(id, at, who, what, why, detail, head.hash)
        .run();
    setHead(db, head);
}

void chainLedger(Database& db) {
    struct OldLine {
        std::int64_t id;
        Instant at;
        std::string who, what, why, detail;
    };
    std::vector<OldLine> lines;
    Statement s(db, "SELECT id, at, who, what, why, detail FROM ledger_before ORDER BY id");
    while (s.step())
        lines.push_back({s.integer(0), s.instant(1), s.text(2), s.text(3), s.text(4), s.text(5)});
    Head head;
    for (const OldLine& l : lines) {
        head.hash = ledgerHash(head.hash, l.id, l.at, l.who, l.what, l.why, l.detail);
        ++head.lines;
        Statement(db, "INSERT INTO ledger(id, at, who, what, why, detail, hash) VALUES(?, ?, ?, ?, ?, ?, ?)")
            .bind(l.id, l.at, l.who, l.what, l.why, l.detail, head.hash)
            .run();
    }
    setHead(db, head);
}

std::vector<std::string> checkLedger(Database& db) {
    std::vector<std::string> faults;
    std::string before;
    std::int64_t lines = 0;
    Statement s(db, "SELECT id, at, who, what, why, detail, hash FROM ledger ORDER BY id");
    while (s.step()) {
        ++lines;
        const std::string hash =
            ledgerHash(before, s.integer(0), s.instant(1), s.text(2), s.text(3), s.text(4), s.text(5));
        if (hash != s.text(6))
            faults.push_back(
                fmt::format("ledger line {}: it was changed, or a line before it was removed", s.integer(0)));
        before = s.text(6);
    }
    const Head head = headOf(db);
    if (head.lines != lines || head.hash != before)
        faults.push_back(
            fmt::format("ledger: it ends with line {} of {}: lines are missing at its end, or were "
                        "added from outside",
                        lines, head.lines));
    return faults;
}

}  // namespace jacinth
