// Import of one large wide file, all in and durable, against splitting alone and against a data-frame
// library's C reader on the same file in the same run; growth at n/16, n/4 and n; a gzip of it. Usage:
// import_bench [--json] [--mb N] (1000 unless said)
#include <fmt/format.h>
#include <unistd.h>
#include <zlib.h>

#include <array>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <random>

#include "bench/figures.h"
#include "source/import_samples.h"
#include "source/row_reader.h"

using namespace jacinth;
using namespace jacinth::bench;
namespace fs = std::filesystem;

namespace {

constexpr int kColumns = 26;

/// Two kilns' tags every 10 s, as a historian would export them: values wander and have two decimals.
void writeFile(const std::string& path, std::size_t bytes) {
    std::ofstream out(path, std::ios::binary);
    std::string text = "time";
    for (int c = 0; c < kColumns; ++c) text += fmt::format(",Kiln {}/Tag {} [°C]", c / 13 + 1, c % 13 + 1);
    text += '\n';
    std::mt19937 random(7);
    std::array<int, kColumns> value;
    for (int c = 0; c < kColumns; ++c) value[static_cast<std::size_t>(c)] = 2000 + 300 * c;
    const Zone utc;
    Instant t = *fromIso("2020-01-01T00:00:00Z");
    std::size_t written = 0;
    while (written < bytes) {
        const WallTime w = utc.wall(t);
        text += fmt::format("{:04}-{:02}-{:02} {:02}:{:02}:{:02}", w.year, w.month, w.day, w.hour, w.minute,
                            w.second);
        for (int& v : value) {
            v += static_cast<int>(random() % 21) - 10;
            text += fmt::format(",{}.{:02}", v / 100, std::abs(v % 100));
        }
        text += '\n';
        t += 10 * kSecond;
        if (text.size() > (4u << 20)) {
            out << text;
            written += text.size();
            text.clear();
        }
    }
    out << text;
}

double importSeconds(const std::string& folder, const std::string& file, std::int64_t& samples) {
    const std::string path = folder + "/s.jacinth";
    auto study = std::move(*Study::create(path));
    const TextSource source = *TextSource::at(file);
    const double s = secondsOf([&] {
        const auto result = importSamples(*study, source, {});
        samples = result ? result->samples : 0;
        study->foldJournal();
    });
    study.reset();
    for (const char* end : {"", "-wal", "-shm"}) fs::remove(path + end);
    return s;
}

void pack(const std::string& from, const std::string& to) {
    const TextSource source = *TextSource::at(from);
    gzFile out = gzopen(to.c_str(), "wb1");
    for (std::uint64_t at = 0; at < source.size(); at += 1 << 24) {
        const std::string part = *source.part(at, 1 << 24);
        gzwrite(out, part.data(), static_cast<unsigned>(part.size()));
    }
    gzclose(out);
}

}  // namespace

int main(int argc, char** argv) {
    Figures out(argc, argv);
    double mb = 1000;
    for (int i = 1; i + 1 < argc; ++i)
        if (std::strcmp(argv[i], "--mb") == 0) mb = std::atof(argv[i + 1]);
    const std::string folder =
        (fs::temp_directory_path() / ("jacinth-import-" + std::to_string(::getpid()))).string();
    fs::create_directories(folder);
    const std::string file = folder + "/wide.csv";
    double speed = 0;
    for (const double part : {mb / 16, mb / 4, mb}) {
        writeFile(file, static_cast<std::size_t>(part * 1e6));
        const double bytes = static_cast<double>(fs::file_size(file));
        std::int64_t samples = 0;
        std::vector<double> times;
        for (int i = 0; i < 3; ++i) times.push_back(importSeconds(folder, file, samples));
        const double s = percentile(times, 0.5);
        out.add(fmt::format("import a wide file of {:.0f} MB, durable", bytes / 1e6), bytes / s / 1e6, "MB/s",
                fmt::format(
                    "{:.1f} M samples, {:.1f} M samples/s{}", static_cast<double>(samples) / 1e6,
                    static_cast<double>(samples) / s / 1e6,
                    speed > 0 ? fmt::format(", {:.2f} x the speed of a quarter", bytes / s / speed) : ""));
        speed = bytes / s;
    }
    const double bytes = static_cast<double>(fs::file_size(file));
    const TextSource source = *TextSource::at(file);
    std::size_t fields = 0;
    const double split = medianSeconds([&] {
        fields = 0;
        ChunkReader chunks(source, {});
        while (const auto chunk = *chunks.next()) {
            RowReader rows(chunk->text, ',');
            while (rows.next()) fields += rows.fields().size();
        }
    });
    out.add("reading and splitting the same, one thread", bytes / split / 1e6, "MB/s",
            fmt::format("import has {:.2f} of this speed; {:.0f} M fields", speed / (bytes / split),
                        static_cast<double>(fields) / 1e6));
    const std::string script =
        "import pandas; d = pandas.read_csv('" + file + "', parse_dates=['time']); assert len(d) > 0";
    const std::string plain = "import pandas; d = pandas.read_csv('" + file + "'); assert len(d) > 0";
    for (const auto& [name, text] :
         {std::pair{"times parsed", script}, std::pair{"times left as text", plain}}) {
        int code = 0;
        const double s = secondsOf([&, &program = text] {
            code = std::system(("/usr/bin/python3 -c \"" + program + "\" 2>/dev/null").c_str());
        });
        if (code == 0)
            out.add(fmt::format("a data-frame library's C reader, {}", name), bytes / s / 1e6, "MB/s",
                    fmt::format("into memory only; import has {:.2f} of this speed", speed / (bytes / s)));
    }
    pack(file, file + ".gz");
    std::int64_t samples = 0;
    const double s = importSeconds(folder, file + ".gz", samples);
    out.add("import the same packed with gzip", bytes / s / 1e6, "MB/s",
            fmt::format("of unpacked text; {:.0f} MB packed",
                        static_cast<double>(fs::file_size(file + ".gz")) / 1e6));
    fs::remove_all(folder);
}
