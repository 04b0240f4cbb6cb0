// One line a figure, or one JSON document: what a bench program prints.
#pragma once

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace jacinth::bench {

class Figures {
  public:
    Figures(int argc, char** argv) {
        for (int i = 1; i < argc; ++i) asJson_ |= std::strcmp(argv[i], "--json") == 0;
    }
    ~Figures() {
        if (asJson_) std::printf("%s\n", all_.dump(2).c_str());
    }
    void add(const std::string& name, double value, const std::string& unit,
             const std::string& against = {}) {
        all_.push_back({{"figure", name}, {"value", value}, {"unit", unit}, {"against", against}});
        if (!asJson_)
            std::printf("%-52s %10.3f %-8s %s\n", name.c_str(), value, unit.c_str(), against.c_str());
        std::fflush(stdout);
    }

  private:
    bool asJson_ = false;
    nlohmann::json all_ = nlohmann::json::array();
};

/// What follows an option on the command line.
inline std::string textAfter(int argc, char** argv, const std::string& option, const std::string& otherwise) {
    for (int i = 1; i + 1 < argc; ++i)
        if (argv[i] == option) return argv[i + 1];
    return otherwise;
}
inline int numberAfter(int argc, char** argv, const std::string& option, int otherwise) {
    return std::stoi(textAfter(argc, argv, option, std::to_string(otherwise)));
}

template <typename F>
double secondsOf(F work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// The median of several times: one alone says little on a machine that does other things as well.
template <typename F>
double medianSeconds(F work, int times = 3) {
    std::vector<double> all;
    for (int i = 0; i < times; ++i) all.push_back(secondsOf(work));
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

inline double percentile(std::vector<double> x, double q) {
    std::sort(x.begin(), x.end());
    return x.empty() ? 0
                     : x[std::min(x.size() - 1, static_cast<std::size_t>(q * static_cast<double>(x.size())))];
}

}  // namespace jacinth::bench
