// Trials by the thousand, each from a seed, in processes of their own: one that ends by a signal or hangs is
// an error that names its seed.
#pragma once

#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <functional>
#include <map>

namespace jacinth::test {

inline int fromEnvironment(const char* name, int otherwise) {
    const char* text = std::getenv(name);
    return text ? std::atoi(text) : otherwise;
}

/// Which seeds, how many of them after each other in one process, and how long one may take.
struct Trials {
    unsigned first = 1, count = 0, batch = 1;
    unsigned seconds = 60;
};
/// `begin` is called in each process and returns the trial of a seed, whose outcome is a letter. How often
/// each outcome was; `see` is called here for each seed.
inline std::map<char, int> outcomesOf(const Trials& trials,
                                      const std::function<std::function<char(unsigned)>()>& begin,
                                      const std::function<void(unsigned seed, char outcome)>& see) {
    std::map<char, int> outcomes;
    for (unsigned done = 0; done < trials.count;) {
        int ends[2];
        EXPECT_EQ(::pipe(ends), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            ::close(ends[0]);
            const auto trial = begin();
            for (unsigned i = 0; i < std::min(trials.batch, trials.count - done); ++i) {
                ::alarm(trials.seconds);
                const char outcome = trial(trials.first + done + i);
                if (::write(ends[1], &outcome, 1) != 1) ::_exit(3);
            }
            ::_exit(0);
        }
        ::close(ends[1]);
        char outcome = 0;
        unsigned tried = 0;
        for (; ::read(ends[0], &outcome, 1) == 1; ++tried) {
            ++outcomes[outcome];
            see(trials.first + done + tried, outcome);
        }
        ::close(ends[0]);
        int status = 0;
        ::waitpid(child, &status, 0);
        const bool ended = WIFEXITED(status) && WEXITSTATUS(status) == 0;
        EXPECT_TRUE(ended) << "seed " << trials.first + done + tried
                           << (WIFSIGNALED(status) ? " ended by signal " : " ended with ")
                           << (WIFSIGNALED(status) ? WTERMSIG(status) : WEXITSTATUS(status));
        done += tried + (ended ? 0 : 1);
        if (trials.count >= 1000 && done % 500 < trials.batch)
            std::fprintf(stderr, "%u of %u trials\n", done, trials.count);
        if (ended && tried == 0) break;  // `begin` cannot be done at all
    }
    return outcomes;
}

}  // namespace jacinth::test
