#include "app/plot/time_ticker.h"

namespace jacinth::app {

Duration roundStep(Duration length, int most) {
    static const std::array<Duration, 25> steps{
        kMillisecond * 100, kSecond,     2 * kSecond,  5 * kSecond,  10 * kSecond, 30 * kSecond, kMinute,
        2 * kMinute,        5 * kMinute, 10 * kMinute, 15 * kMinute, 30 * kMinute, kHour,        2 * kHour,
        3 * kHour,          6 * kHour,   12 * kHour,   kDay,         2 * kDay,     4 * kDay,     kWeek,
        2 * kWeek,          4 * kWeek,   13 * kWeek,   52 * kWeek};
    for (const Duration step : steps)
        if (length / step <= std::max(1, most)) return step;
    return steps.back();
}

std::vector<Instant> TimeTicker::moments(TimeRange range, int width, int pixelsATick) const {
    return momentsEvery(roundStep(range.length(), width / pixelsATick), range);
}

std::vector<Instant> TimeTicker::momentsEvery(Duration step, TimeRange range) const {
    std::vector<Instant> out;
    Instant day = zone_.startOfDay(range.from);
    if (step >= kDay) {
        const int days = static_cast<int>(step / kDay);
        for (; day < range.to && out.size() < 500; day = zone_.addDays(day, days))
            if (day >= range.from) out.push_back(day);
        return out;
    }
    for (; day < range.to && out.size() < 500; day = zone_.addDays(day, 1)) {
        const Instant next = zone_.addDays(day, 1);
        const Instant first = std::max(day, day + (range.from - day) / step * step);
        for (Instant t = first; t < std::min(next, range.to); t += step)
            if (t >= range.from) out.push_back(t);
    }
    return out;
}

QString TimeTicker::label(Instant t, Duration step) const {
    const WallTime w = zone_.wall(t);
    if (w.hour == 0 && w.minute == 0 && w.second == 0) return QString::fromStdString(zone_.shortDate(t));
    if (step < kMinute) return QString::fromStdString(zone_.preciseText(t)).section(' ', -1);
    return QString::fromStdString(zone_.clock(t));
}

double TimeTicker::getTickStep(const QCPRange& range) {
    step_ = roundStep(fromNanoseconds(range.size() * 1e9), tickCount());
    return toSeconds(step_);
}

QVector<double> TimeTicker::createTickVector(double, const QCPRange& range) {
    QVector<double> out;
    const TimeRange times{origin_ + fromNanoseconds(range.lower * 1e9),
                          origin_ + fromNanoseconds(range.upper * 1e9)};
    for (const Instant t : momentsEvery(step_, times)) out.append(toSeconds(t - origin_));
    return out;
}

QString TimeTicker::getTickLabel(double tick, const QLocale&, QChar, int) {
    return label(origin_ + std::llround(tick * 1e3) * kMillisecond, step_);
}

}  // namespace jacinth::app
