// The demo plant with runs, golden runs and limits as the README chooses them, screened.
#pragma once

#include <gtest/gtest.h>

#include "test/cli_runner.h"

namespace jacinth::test {

inline void makeScreenedDemo(const std::string& path) {
    copyDemo(path);
    const auto done = [](const std::vector<std::string>& command) {
        const Said said = run(command);
        ASSERT_EQ(said.code, 0) << said.err;
    };
    done({"runs", "find", path, "--track", "Runs", "--where", "@kiln_step is not \"Idle\"", "--least", "1h"});
    done({"golden", "set", path, "--track", "Runs", "--where",
          "load between 41 and 43 and max(@air_on_temp) < 86.5 and share(@burner_mode is \"Manual\") = 0 and "
          "duration < 22h and number between 3 and 9"});
    std::vector<std::string> build{"limits", "build", path, "--name", "Golden limits", "--track", "Runs"};
    for (const char* role :
         {"air_on_temp", "air_off_temp", "air_off_rh_twin", "bed_dp", "fan_current", "gas_flow"})
        build.insert(build.end(), {"--tag", role});
    done(build);
    done({"screen", path, "--limits", "Golden limits"});
}

}  // namespace jacinth::test
