// The demo plant's front door: its open files, its truth, and the study made from them.
#pragma once

#include <functional>
#include <nlohmann/json_fwd.hpp>

#include "demo/plant.h"
#include "source/import_events.h"

namespace jacinth::demo {

/// What happens over the record, with every sensor fault drawn.
Truth drawTruth(const PlantSpec& spec);
nlohmann::json truthToJson(const Truth& truth);

/// One of the plant's open files. `eventKind` is empty for samples.
struct DemoFile {
    std::string name;
    std::string eventKind;
    std::string text;
};

/// Makes the files one after another and hands each on: all of them need not fit in memory at once. Samples
/// first.
void makeFiles(const Truth& truth, const std::function<void(DemoFile)>& take);

/// Imports every file into a new study by the same code as anybody's files, then sets roles and facts. Where
/// it fails or is stopped nothing is left of the study.
Result<std::unique_ptr<Study>> makeStudy(const Truth& truth, const std::string& path,
                                         const Progress& progress = {});

/// The sensors of one kiln, as columns of loggers. Shared by makeFiles and its tests.
struct LoggerColumn {
    std::string tag, unit;
    int decimals = 1;
    std::vector<double> values;     ///< NaN where there is no sample
    std::vector<std::uint8_t> bad;  ///< 1 where quality is bad; empty for none
};
struct Logger {
    std::string asset, name;
    std::vector<Instant> stamps;  ///< as the logger wrote them
    std::vector<LoggerColumn> columns;
};
std::vector<Logger> recordKiln(const Truth& truth, int kiln);
Logger recordWeather(const Truth& truth);

/// The roles of the plant's tags by name.
const std::vector<std::pair<std::string, std::string>>& rolesByTag();

}  // namespace jacinth::demo
