"""What Jacinth computes against independent numeric libraries (scipy, statsmodels, pandas), on the same files.

Usage: compare_with_libraries.py JACINTH_CLI DEMO_STUDY. Exit code 0 when everything agrees; one line a comparison.
"""
import io
import json
import os
import subprocess
import sys
import tempfile

import numpy as np
import pandas as pd
from scipy import interpolate, optimize, signal, stats
from statsmodels.tsa.seasonal import STL, seasonal_decompose
from statsmodels.tsa.stattools import acf
import statsmodels.formula.api as smf

CLI, DEMO = sys.argv[1], sys.argv[2]
failures = []


def cli(*arguments):
    run = subprocess.run([CLI, *map(str, arguments)], capture_output=True, text=True)
    if run.returncode != 0:
        raise SystemExit(f"{arguments}: exit {run.returncode}: {run.stderr}")
    return run.stdout


def table(text):
    return pd.read_csv(io.StringIO(text))


def compare(name, got, want, relative=1e-9, absolute=1e-9):
    got, want = np.asarray(got, float), np.asarray(want, float)
    same_shape = got.shape == want.shape
    ok = same_shape and np.allclose(got, want, rtol=relative, atol=absolute, equal_nan=True)
    worst = np.nanmax(np.abs(got - want)) if same_shape and got.size else float("nan")
    print(f"{'ok  ' if ok else 'FAIL'} {name}: {got.size} figures, worst difference {worst:.3g}")
    if not ok:
        failures.append(name)
    return ok


def study_with(folder, name, times, values):
    """A study that holds one tag, K 1/x, and its path."""
    path = os.path.join(folder, name + ".jacinth")
    csv = os.path.join(folder, name + ".csv")
    pd.DataFrame({"time": times.strftime("%Y-%m-%dT%H:%M:%S.%fZ"), "K 1/x": [repr(float(v)) for v in values]}).to_csv(
        csv, index=False)
    cli("import", path, csv)
    return path


def parts(folder):
    random = np.random.default_rng(1)
    n, period = 24 * 40, 24
    times = pd.date_range("2026-01-01", periods=n, freq="h")
    t = np.arange(n)
    level = 100 + 0.05 * t + 8 * np.sin(t / 150)
    cycle = 10 * np.sin(2 * np.pi * t / period) + 4 * np.cos(4 * np.pi * t / period)
    added = level + cycle + random.normal(0, 2, n)
    added[300] += 60
    multiplied = level * (1 + cycle / 60) * np.exp(random.normal(0, 0.02, n))
    for kind, values in (("added", added), ("multiplied", multiplied)):
        # One sample an hour, held by no line: the sample's own value stands for its hour.
        path = study_with(folder, "parts-" + kind, times, values)
        ask = ("parts", path, "--tag", "K 1/x", "--every", "1h", "--take", "last", "--period", "24h", "--kind", kind)
        ours = table(cli(*ask, "--way", "classical"))
        theirs = seasonal_decompose(values, model="additive" if kind == "added" else "multiplicative", period=period)
        compare(f"classical parts, {kind}: trend", ours.trend, theirs.trend)
        compare(f"classical parts, {kind}: cycle", ours.cycle, theirs.seasonal)
        compare(f"classical parts, {kind}: remainder", ours.remainder, theirs.resid)
        for robust in (False, True):
            for span in (7, 13):
                ours = table(cli(*ask, "--way", "loess", "--cycle-span", span, *(["--robust"] if robust else [])))
                y = values if kind == "added" else np.log(values)
                fit = STL(y, period=period, seasonal=span, robust=robust).fit()
                back = (lambda x: x) if kind == "added" else np.exp
                name = f"LOESS parts, {kind}{', robust' if robust else ''}, span {span}"
                compare(name + ": trend", ours.trend, back(fit.trend))
                compare(name + ": cycle", ours.cycle, back(fit.seasonal))
                compare(name + ": remainder", ours.remainder, back(fit.resid))
                whole = (ours.trend + ours.cycle + ours.remainder if kind == "added"
                         else ours.trend * ours.cycle * ours.remainder)
                compare(name + ": put together again", whole, values)
    said = json.loads(cli("parts", os.path.join(folder, "parts-added.jacinth"), "--tag", "K 1/x", "--every", "1h",
                          "--take", "last", "--json"))
    line = np.polyval(np.polyfit(t, added, 1), t)
    r = acf(added - line, nlags=n // 3, fft=False)
    compare("autocorrelation at the proposed period", said["strength"], r[int(said["proposedPeriod"] / 3600)])
    compare("proposed period", said["proposedPeriod"], 24 * 3600)
    if said["multiplied"]:
        failures.append("added parts were taken for multiplied ones: " + said["reason"])
    said = json.loads(cli("parts", os.path.join(folder, "parts-multiplied.jacinth"), "--tag", "K 1/x", "--every", "1h",
                          "--take", "last", "--json"))
    if not said["multiplied"]:
        failures.append("multiplied parts were taken for added ones: " + said["reason"])


def peaks(folder):
    random = np.random.default_rng(2)
    n = 6000
    times = pd.date_range("2026-01-01", periods=n, freq="10s")
    values = np.round(np.cumsum(random.normal(0, 1, n)) * 0.3 + 3 * np.sin(np.arange(n) / 40), 1)  # flat tops too
    values[random.integers(0, n, 25)] += 15
    path = study_with(folder, "peaks", times, values)
    # Which of two equally high peaks goes is nobody's rule: for distances every height is another.
    different = values + random.permutation(n) * 1e-7
    path_different = study_with(folder, "peaks-different", times, different)
    step = 10
    cases = [{}, {"prominence": 2}, {"height": 1.5}, {"distance": 12}, {"prominence": 1, "width": 6},
             {"prominence": 1, "most-width": 3, "width": 0}, {"height": 0, "distance": 30, "prominence": 3, "width": 2}]
    for case in cases:
        for relative in (0.5, 0.9):
            arguments, theirs = [], {"prominence": case.get("prominence", 0), "rel_height": relative}
            for name, value in case.items():
                if name in ("width", "most-width", "distance"):
                    arguments += [f"--{name}", f"{value * step}s"]
                else:
                    arguments += [f"--{name}", value]
            if "height" in case:
                theirs["height"] = case["height"]
            if "distance" in case:
                theirs["distance"] = case["distance"]
            theirs["width"] = (case.get("width", 0), case.get("most-width"))
            apart = "distance" in case
            ours = json.loads(cli("peaks", path_different if apart else path, "--tag", "K 1/x", "--json",
                                  "--relative-height", relative, *arguments))
            want, facts = signal.find_peaks(different if apart else values, **theirs)
            name = f"peaks {case} at {relative}"
            got = [(pd.Timestamp(p["time"]).tz_localize(None) - times[0]).total_seconds() / step for p in ours["peaks"]]
            if compare(name + ": places", got, want):
                compare(name + ": prominences", [p["prominence"] for p in ours["peaks"]], facts["prominences"])
                compare(name + ": widths", [p["width"] / step for p in ours["peaks"]], facts["widths"], absolute=1e-7)
    ours = json.loads(cli("peaks", path, "--tag", "K 1/x", "--json", "--troughs", "--prominence", 4))
    want, _ = signal.find_peaks(-values, prominence=4)
    compare("troughs", [p["height"] for p in ours["peaks"]], values[want])


def resampling(folder):
    random = np.random.default_rng(3)
    # Irregular, over the night on which the clocks go forward.
    seconds = np.sort(random.choice(12 * 86400, 40000, replace=False))
    times = pd.Timestamp("2026-03-22T22:30:00") + pd.to_timedelta(seconds, unit="s")
    values = np.round(random.normal(50, 5, seconds.size), 3)
    path = study_with(folder, "resample", times, values)
    series = pd.Series(values, index=times.tz_localize("UTC"))
    start, end = "2026-03-23T00:00:00Z", "2026-04-03T00:00:00Z"
    inside = series[start:end][:-1] if series[start:end].index[-1] == pd.Timestamp(end) else series[start:end]
    for ours, theirs in (("min", "min"), ("max", "max"), ("first", "first"), ("last", "last"), ("count", "count"),
                         ("sum", "sum"), ("sample-mean", "mean")):
        for every, rule in (("1h", "1h"), ("6h", "6h")):
            got = table(cli("read", path, "--tag", "K 1/x", "--every", every, "--take", ours, "--from", start, "--to", end))
            want = getattr(inside.resample(rule, origin=pd.Timestamp(start)), theirs)()
            compare(f"{every} {ours}", got.value, want)
    cli_zone = os.path.join(folder, "zone.csv")
    with open(cli_zone, "w") as f:
        f.write("time,K 1/y\n2026-03-25 00:00:00,1\n")
    cli("import", path, cli_zone, "--zone", "Europe/Oslo")
    for unit, rule in (("day", "D"), ("week", "W-MON"), ("month", "MS")):
        local = series.tz_convert("Europe/Oslo")
        more = {"closed": "left", "label": "left"} if unit == "week" else {}
        want = local.resample(rule, **more).count()
        got = table(cli("read", path, "--tag", "K 1/x", "--every", unit, "--take", "count"))
        # The last edge is cut at the end of the record, which the count does not see.
        compare(f"samples a calendar {unit}", got.value, want)
        compare(f"starts of calendar {unit}s", pd.to_datetime(got.time).astype("int64"), want.index.astype("int64"))
    # A mean weighted by time, against sums of trapezia worked out on a fine common grid.
    cli("tag", "set", path, "--tag", "K 1/x", "--longest-gap", "1d")
    fine = series.reindex(series.index.union(pd.date_range(start, end, freq="1h"))).interpolate("time")
    got = table(cli("read", path, "--tag", "K 1/x", "--every", "1h", "--from", start, "--to", end))
    want = []
    for t in pd.date_range(start, end, freq="1h")[:-1]:
        part = fine[t:t + pd.Timedelta("1h")]
        x = (part.index - t).total_seconds()
        want.append(np.trapz(part.values, x) / 3600)
    compare("1h mean by time", got.value, want)


def quantiles():
    whole = table(cli("read", DEMO, "--tag", "Kiln 5/Fan current"))
    whole = whole[whole.quality != "bad"]
    states = table(cli("read", DEMO, "--tag", "Kiln 5/Kiln step"))
    values = pd.DataFrame({"at": pd.to_datetime(whole.time), "value": whole.value.astype(float)})
    held = pd.DataFrame({"at": pd.to_datetime(states.time), "state": states.value})
    joined = pd.merge_asof(values, held, on="at").dropna()
    for entry in json.loads(cli("by-state", DEMO, "--tag", "Kiln 5/Fan current", "--by", "Kiln 5/Kiln step", "--json")):
        mine = joined[joined.state == entry["state"]].value
        compare(f"samples in {entry['state']}", entry["count"], len(mine))
        compare(f"quantiles in {entry['state']}", entry["quantiles"], mine.quantile([0.05, 0.25, 0.5, 0.75, 0.95]))


def slopes(folder):
    """Cycles: a line each, a common line, and the test that they are one slope, against analysis of covariance."""
    random = np.random.default_rng(4)
    times = pd.date_range("2026-01-01", periods=90 * 24, freq="h")
    stops = [pd.Timestamp("2026-01-25"), pd.Timestamp("2026-02-20"), pd.Timestamp("2026-03-10")]
    values, since = [], times[0]
    for t in times:
        if stops and t >= stops[0]:
            since = stops.pop(0)
        values.append(500 - 1.5 * (t - since).total_seconds() / 86400 + random.normal(0, 6))
    path = study_with(folder, "cycles", times, values)
    csv = os.path.join(folder, "stops.csv")
    with open(csv, "w") as f:
        f.write("asset,start,end,reason\n")
        for day in ("2026-01-25", "2026-02-20", "2026-03-10"):
            f.write(f"K 1,{day}T00:00:00Z,{day}T03:00:00Z,belt changed\n")
    cli("import-events", path, csv, "--as", "stops")
    ours = json.loads(cli("cycles", path, "--tag", "K 1/x", "--every", "1d", "--json"))
    rows = []
    for c, cycle in enumerate(ours["cycles"]):
        a, b = pd.Timestamp(cycle["start"]).tz_localize(None), pd.Timestamp(cycle["end"]).tz_localize(None)
        frame = pd.DataFrame({"t": times, "v": values})
        frame = frame[(frame.t >= a) & (frame.t < b)]
        days = (frame.t - a).dt.total_seconds() / 86400
        for day in range(int(days.max()) + 1):
            mine = frame[(days >= day) & (days < day + 1)]
            if (min(b, a + pd.Timedelta(days=day + 1)) - (a + pd.Timedelta(days=day))).total_seconds() * 2 < 86400:
                continue
            rows.append({"c": str(c), "x": days[mine.index].mean(), "y": mine.v.mean()})
    data = pd.DataFrame(rows)
    common, own = smf.ols("y ~ x + C(c)", data).fit(), smf.ols("y ~ x * C(c)", data).fit()
    compare("common slope", ours["common"]["slopePerDay"], common.params["x"])
    compare("95 % of the common slope", (ours["common"]["high"] - ours["common"]["low"]) / 2,
            stats.t.ppf(0.975, common.df_resid) * common.bse["x"])
    compare("p that the slopes are one", ours["common"]["pSame"], own.compare_f_test(common)[1])
    compare("p that there is none", ours["common"]["pNone"], common.pvalues["x"], absolute=1e-12)


def limits(folder):
    """Golden limits by every method, against numpy and scipy on runs lined up by numpy's interpolation."""
    random = np.random.default_rng(11)
    seconds = np.cumsum(random.integers(20, 70, 12000))
    start = pd.Timestamp("2026-01-01")
    times = start + pd.to_timedelta(seconds, unit="s")
    values = 50 + 20 * np.sin(seconds / 4000) + random.normal(0, 2, len(seconds))
    path = study_with(folder, "limits", times, values)
    runs = []
    at = 3600
    for _ in range(14):
        length = int(random.integers(6 * 3600, 9 * 3600))
        runs.append((at, at + length))
        at += length + 1800
    csv = os.path.join(folder, "batches.csv")
    with open(csv, "w") as f:
        f.write("asset,start,end,batch\n")
        for i, (a, b) in enumerate(runs):
            stamp = lambda s: (start + pd.Timedelta(seconds=s)).strftime("%Y-%m-%dT%H:%M:%SZ")
            f.write(f"K 1,{stamp(a)},{stamp(b)},B{i}\n")
    cli("import-events", path, csv, "--as", "batches")
    found = json.loads(cli("runs", "find", path, "--track", "Runs", "--list", "Batch list", "--json"))
    assert len(found) == len(runs), (len(found), len(runs))
    cli("golden", "set", path, "--track", "Runs", *sum((["--run", r["id"]] for r in found), []))
    every = 300
    for line_up in ("start", "end"):
        length = max(b - a for a, b in runs) // every + 1
        rows = np.full((len(runs), length), np.nan)
        for i, (a, b) in enumerate(runs):
            offsets = np.arange(0, b - a + 1, every)
            rows[i, :len(offsets)] = np.interp(a + offsets if line_up == "start" else b - offsets, seconds, values)
        n = np.sum(np.isfinite(rows), axis=0)
        kept = n >= 3
        rows, n = rows[:, kept], n[kept]
        mean, s = np.nanmean(rows, axis=0), np.nanstd(rows, axis=0, ddof=1)
        median = np.nanmedian(rows, axis=0)
        mad = np.nanmedian(np.abs(rows - median), axis=0)
        howe = stats.norm.ppf(0.975) * np.sqrt((n - 1) * (1 + 1 / n) / stats.chi2.ppf(0.05, n - 1))
        expected = {
            ("mean-sd", "--k", 2.5): (mean - 2.5 * s, mean, mean + 2.5 * s),
            ("tolerance", "--coverage", 0.95): (mean - howe * s, mean, mean + howe * s),
            ("median-mad", "--k", 3): (median - 3 * 1.4826 * mad, median, median + 3 * 1.4826 * mad),
            ("quantile", "--q", 0.1): tuple(np.nanquantile(rows, q, axis=0) for q in (0.1, 0.5, 0.9)),
            ("envelope", "--least-runs", 3): (np.nanmin(rows, axis=0), median, np.nanmax(rows, axis=0)),
        }
        for (method, *figure), want in expected.items():
            made = json.loads(cli("limits", "build", path, "--name", method, "--track", "Runs", "--tag", "x", "--every",
                                  f"{every}s", "--method", method, *figure, "--line-up", line_up, "--json"))
            slices = sorted((x for x in made["slices"] if x["low"] is not None), key=lambda x: x["offset"])
            for name, column in zip(("low", "centre", "high"), want):
                compare(f"limits {method} from {line_up}, {name}", [x[name] for x in slices], column, absolute=1e-7)


def fixes(folder):
    """Gaps bridged, a curve, a decay: against interpolators, np.interp and least squares over the samples around."""
    random = np.random.default_rng(8)
    start, n = pd.Timestamp("2026-03-01"), 400
    seconds = np.arange(n) * 60.0
    values = np.round(40 + 12 * np.sin(seconds / 2600) + random.normal(0, 0.3, n), 3)
    there = (np.arange(n) < 180) | (np.arange(n) >= 225)
    times = start + pd.to_timedelta(seconds, unit="s")
    path = study_with(folder, "fixes", times[there], values[there])
    x, y, gap = seconds[there], values[there], seconds[~there]
    stretch = ["--from", times[0].isoformat() + "Z", "--to", times[-1].isoformat() + "Z", "--why", "compared"]

    def mended(kind, *options):
        cli("fix", "add", path, "--tag", "K 1/x", "--kind", kind, *stretch, *options)
        read = table(cli("read", path, "--tag", "K 1/x"))
        cli("undo", path)
        at = (pd.to_datetime(read["time"], utc=True).dt.tz_localize(None) - start).dt.total_seconds().to_numpy()
        return at, read["value"].to_numpy()

    def filled(*options):
        at, value = mended(*options)
        return value[np.isin(at, gap)]

    around = (np.arange(x.size) >= 180 - 16) & (np.arange(x.size) < 180 + 16)
    compare("bridge by line", filled("bridge", "--way", "line"), np.interp(gap, x, y))
    compare("bridge by monotone cubic", filled("bridge", "--way", "cubic"), interpolate.PchipInterpolator(x, y)(gap))
    spline = interpolate.CubicSpline(x[around], y[around], bc_type="natural")
    compare("bridge by natural spline", filled("bridge", "--way", "spline"), spline(gap))
    points = [(20, 1.5), (35, -0.5), (50, 2)]
    _, curved = mended("curve", "--at", times[0].isoformat() + "Z", "--points", ",".join(f"{a}:{b}" for a, b in points))
    compare("calibration curve", curved, y + np.interp(y, *zip(*points)))
    decay = np.round(20 + 60 * np.exp(-seconds / 1800) + random.normal(0, 0.02, n), 4)
    path = study_with(folder, "decay", times[there], decay[there])
    before = x[(x < gap[0]) & (x >= gap[0] - 60 - 7200)]
    known = decay[there][np.isin(x, before)]
    left = lambda tau: np.sum((np.polyval(np.polyfit(np.exp(-(before - before[0]) / tau), known, 1),
                                          np.exp(-(before - before[0]) / tau)) - known) ** 2)
    tau = optimize.minimize_scalar(lambda p: left(np.exp(p)), bounds=(np.log(360), np.log(72000)), method="bounded",
                                   options={"xatol": 1e-10}).x
    a, b, rest = decay[179], decay[225], np.exp(-(seconds[225] - seconds[179]) / np.exp(tau))
    floor = (b - a * rest) / (1 - rest)
    compare("decay with its time constant fitted", filled("decay"),
            floor + (a - floor) * np.exp(-(gap - seconds[179]) / np.exp(tau)), absolute=1e-4)


def shapes(folder):
    """`label like` against every stretch normalised by numpy."""
    n, m = 1500, 90
    random = np.random.default_rng(9)
    start = pd.Timestamp("2026-03-03 08:00")
    values = np.round(np.cumsum(random.normal(0, 1, n)), 3)
    times = start + pd.to_timedelta(np.arange(n) * 60.0, unit="s")
    path = study_with(folder, "shapes", times, values)
    a = 400
    hits = json.loads(cli("label", "like", path, "--asset", "K 1", "--tag", "x", "--from", times[a].isoformat() + "Z",
                          "--to", times[a + m].isoformat() + "Z", "--every", "60s", "--most", "20", "--json"))
    windows = np.lib.stride_tricks.sliding_window_view(values, m)
    z = lambda w: (w - w.mean(axis=-1, keepdims=True)) / w.std(axis=-1, keepdims=True)
    distance = np.sqrt(np.mean((z(windows) - z(values[a:a + m])) ** 2, axis=1))
    order, taken = np.argsort(distance, kind="stable"), []
    for k in order:
        if all(abs(k - t) >= m / 2 for t in taken):
            taken.append(k)
    taken = [k for k in taken if abs(k - a) > m / 2][:20]
    at = [(pd.Timestamp(h["start"]).tz_convert(None) - start).total_seconds() / 60 for h in hits]
    compare("shape search, where", np.array(at), np.array(taken, dtype=float))
    compare("shape search, distances", np.array([h["distance"] for h in hits]), distance[taken], absolute=1e-7)


with tempfile.TemporaryDirectory() as work:
    parts(work)
    fixes(work)
    shapes(work)
    limits(work)
    peaks(work)
    resampling(work)
    quantiles()
    slopes(work)
print(f"{len(failures)} comparisons failed" + (": " + "; ".join(failures) if failures else ""))
sys.exit(1 if failures else 0)
