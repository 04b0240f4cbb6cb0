"""Reads cut-outs with pandas and h5py and holds both forms against each other and against the manifest.

usage: read_cut_outs.py CSV_FOLDER HDF5_FOLDER
"""
import json
import sys

import h5py
import numpy
import pandas


def read_csv(folder, label):
    return pandas.read_csv(f"{folder}/{label['file']}", parse_dates=["time"], float_precision="round_trip")


def check_label(csv_folder, hdf5_folder, by_csv, by_hdf5):
    table = read_csv(csv_folder, by_csv)
    assert len(table) == by_csv["rows"] == by_hdf5["rows"], by_csv["file"]
    name, group = by_hdf5["file"].split("/")
    with h5py.File(f"{hdf5_folder}/{name}", "r") as file:
        data = file[group]
        assert data.attrs["kind"] == by_csv["kind"] and data.attrs["asset"] == by_csv["asset"]
        times = pandas.to_datetime(data["time"][:], utc=True)
        assert (times == pandas.DatetimeIndex(table["time"])).all()
        for column in by_csv["columns"]:
            values = data[column["tag"]][:]
            if column["states"]:
                names = list(data[column["tag"]].attrs["states"])
                said = [names[int(v)] if numpy.isfinite(v) else None for v in values]
                assert [s if isinstance(s, str) else None for s in table[column["tag"]]] == said
            else:
                numpy.testing.assert_array_equal(values, table[column["tag"]].to_numpy(dtype=float))
                assert data[column["tag"]].attrs["unit"] == column["unit"]
    return sum(1 for _ in by_csv["columns"])


def main(csv_folder, hdf5_folder):
    with open(f"{csv_folder}/manifest.json") as a, open(f"{hdf5_folder}/manifest.json") as b:
        by_csv, by_hdf5 = json.load(a)["labels"], json.load(b)["labels"]
    assert [x["id"] for x in by_csv] == [x["id"] for x in by_hdf5] and by_csv
    assert [x["part"] for x in by_csv] == [x["part"] for x in by_hdf5]
    columns = sum(check_label(csv_folder, hdf5_folder, a, b) for a, b in zip(by_csv, by_hdf5))
    runs = {}
    for label in by_csv:
        for run in label["runs"]:
            runs.setdefault(run, set()).add(label["part"])
    assert all(len(parts) == 1 for parts in runs.values())
    print(f"{len(by_csv)} labels, {columns} columns, {len(runs)} runs")


main(*sys.argv[1:])
