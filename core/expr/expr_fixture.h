// What tests of the language share: tags written down by hand.
#pragma once

#include <gtest/gtest.h>

#include <map>

#include "core/expr/evaluate.h"
#include "core/time/times_for_tests.h"

namespace jacinth {

/// Tags by role, as a test writes them down.
class TestInputs : public Inputs {
  public:
    Result<Signal> role(const std::string& name) override { return signals.at(name); }
    Result<Signal> path(const std::string& name) override { return signals.at(name); }
    Result<std::vector<TimeRange>> track(const std::string& name) override { return tracks.at(name); }
    Result<LimitLines> limits(const std::string& set, const std::string&, bool) override {
        return limitLines.at(set);
    }
    std::map<std::string, Signal> signals;
    std::map<std::string, std::vector<TimeRange>> tracks;
    std::map<std::string, LimitLines> limitLines;
};

class Expr : public ::testing::Test {
  protected:
    void add(const std::string& role, const Series& s, Bridging bridging = {TagKind::Continuous, kHour},
             const std::vector<std::string>& states = {}) {
        Signal signal = signalOf(s, bridging, s.times.front());
        signal.states = states;
        inputs.signals[role] = signal;
        inputs.signals["Kiln 3/" + role] = signal;
        names.roles[role] = names.paths["Kiln 3/" + role] = {bridging.kind, "", states};
        names.assetKind = "Kiln";
        range.to = std::max(range.to, s.times.back() + kNanosecond);
    }
    void minutes(const std::string& role, std::initializer_list<double> values) {
        Series s;
        for (const double v : values) s.push(Instant(static_cast<int>(s.size()) * kMinute), v);
        add(role, s);
    }
    void track(const std::string& name, std::vector<TimeRange> spans) {
        inputs.tracks[name] = std::move(spans);
        names.tracks.push_back(name);
    }
    /// Samples of `x` at the times in minutes, then values.
    void samples(const std::string& role, std::initializer_list<std::pair<double, double>> all,
                 Bridging bridging = {TagKind::Continuous, kHour},
                 const std::vector<std::string>& states = {}) {
        Series s;
        for (const auto& [minute, v] : all) s.push(Instant(static_cast<int>(minute * 60) * kSecond), v);
        add(role, s, bridging, states);
    }
    double valueOf(const std::string& text, double minute) {
        return signalAt(number(text), Instant(static_cast<int>(minute * 60) * kSecond));
    }
    Truth truth(const std::string& text, double minute) {
        const auto e = compileExpression(text, names);
        EXPECT_TRUE(e) << text << ": " << (e ? "" : e.error().message);
        if (!e) return Truth::Unknown;
        const Condition c = std::get<Condition>(*evaluate(*e, inputs, range));
        Truth out = Truth::Unknown;
        for (std::size_t i = 0;
             i < c.times.size() && c.times[i] <= Instant(static_cast<int>(minute * 60) * kSecond); ++i)
            out = c.values[i];
        return out;
    }
    std::string errorOf(const std::string& text) {
        const auto e = compileExpression(text, names);
        return e ? "" : e.error().message;
    }
    Signal number(const std::string& text) {
        const auto e = compileExpression(text, names);
        EXPECT_TRUE(e) << text << (e ? "" : e.error().message);
        return std::get<Signal>(*evaluate(*e, inputs, range));
    }
    std::vector<TimeRange> whereTrue(const std::string& text) {
        const auto e = compileExpression(text, names);
        EXPECT_TRUE(e) << (e ? "" : e.error().message);
        return stretches(std::get<Condition>(*evaluate(*e, inputs, range)), range);
    }
    TestInputs inputs;
    Names names;
    TimeRange range = between(0, 0);
};

}  // namespace jacinth
