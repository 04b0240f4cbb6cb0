#include "work/label/cut_out_files.h"

#include <fmt/format.h>
#include <hdf5.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/text.h"
#include "store/store_error.h"
#include "store/write_file.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

class CsvWriter : public CutWriter {
  public:
    explicit CsvWriter(fs::path folder) : folder_(std::move(folder)) {}
    std::string write(const std::string& part, const Span& label, const std::string&,
                      const CutData& data) override {
        const std::string name = fmt::format("{}/label-{}.csv", part, label.id);
        fs::create_directories(folder_ / part);
        std::string text = "time";
        for (const Tag& tag : data.tags) text += "," + csvField(tag.name);
        text += "\n";
        IsoTimes times;
        for (std::size_t row = 0; row < data.rows(); ++row) {
            times.append(data.from + static_cast<std::int64_t>(row) * data.step, text);
            for (std::size_t i = 0; i < data.tags.size(); ++i) {
                text += ',';
                appendValue(data.tags[i], data.values[i][row], text);
            }
            text += '\n';
        }
        if (const Status written = writeWhole((folder_ / name).string(), text); !written)
            throw StoreError(written.error().message);
        return name;
    }

  private:
    static void appendValue(const Tag& tag, double v, std::string& out) {
        if (!std::isfinite(v)) return;
        const bool named = tag.kind == TagKind::State && v >= 0 && v < static_cast<double>(tag.states.size());
        if (named)
            out += csvField(tag.states[static_cast<std::size_t>(v)]);
        else
            fmt::format_to(std::back_inserter(out), "{}", v);
    }
    fs::path folder_;
};

/// An identifier of the HDF5 library, closed at the end.
class Handle {
  public:
    Handle(hid_t id, herr_t (*close)(hid_t)) : id_(id), close_(close) {
        if (id < 0) throw StoreError("HDF5: the file cannot be written");
    }
    ~Handle() { close_(id_); }
    Handle(const Handle&) = delete;
    Handle& operator=(const Handle&) = delete;
    operator hid_t() const { return id_; }

  private:
    hid_t id_;
    herr_t (*close_)(hid_t);
};

void need(herr_t done) {
    if (done < 0) throw StoreError("HDF5: the file cannot be written");
}

Handle textType() {
    Handle type(H5Tcopy(H5T_C_S1), H5Tclose);
    need(H5Tset_size(type, H5T_VARIABLE));
    need(H5Tset_cset(type, H5T_CSET_UTF8));
    return Handle(H5Tcopy(type), H5Tclose);
}

void putText(hid_t on, const char* name, const std::string& text) {
    const Handle type = textType(), space(H5Screate(H5S_SCALAR), H5Sclose);
    const Handle attribute(H5Acreate2(on, name, type, space, H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
    const char* pointer = text.c_str();
    need(H5Awrite(attribute, type, &pointer));
}

void putTexts(hid_t on, const char* name, const std::vector<std::string>& texts) {
    const hsize_t count = texts.size();
    const Handle type = textType(), space(H5Screate_simple(1, &count, nullptr), H5Sclose);
    const Handle attribute(H5Acreate2(on, name, type, space, H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
    std::vector<const char*> pointers;
    for (const std::string& text : texts) pointers.push_back(text.c_str());
    need(H5Awrite(attribute, type, pointers.data()));
}

/// A compressed dataset of one dimension; what is written on it afterwards are its attributes.
Handle putNumbers(hid_t group, const std::string& name, hid_t stored, hid_t given, const void* numbers,
                  hsize_t count) {
    const Handle space(H5Screate_simple(1, &count, nullptr), H5Sclose);
    const Handle how(H5Pcreate(H5P_DATASET_CREATE), H5Pclose);
    const hsize_t chunk = std::clamp<hsize_t>(count, 1, 1 << 14);
    need(H5Pset_chunk(how, 1, &chunk));
    need(H5Pset_shuffle(how));
    need(H5Pset_deflate(how, 4));
    Handle set(H5Dcreate2(group, name.c_str(), stored, space, H5P_DEFAULT, how, H5P_DEFAULT), H5Dclose);
    need(H5Dwrite(set, given, H5S_ALL, H5S_ALL, H5P_DEFAULT, numbers));
    return Handle(H5Dopen2(group, name.c_str(), H5P_DEFAULT), H5Dclose);
}

/// A name that does not lead into a group.
std::string asOneName(std::string name) {
    std::replace(name.begin(), name.end(), '/', '_');
    return name == "time" ? "time (tag)" : name;
}

class Hdf5Writer : public CutWriter {
  public:
    explicit Hdf5Writer(fs::path folder) : folder_(std::move(folder)) {
        H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);
    }
    std::string write(const std::string& part, const Span& label, const std::string& asset,
                      const CutData& data) override {
        const std::string name = part + ".h5", group = fmt::format("label-{}", label.id);
        auto file = files_.find(part);
        if (file == files_.end()) {
            const std::string path = (folder_ / name).string();
            file =
                files_
                    .emplace(std::piecewise_construct, std::forward_as_tuple(part),
                             std::forward_as_tuple(
                                 H5Fcreate(path.c_str(), H5F_ACC_EXCL, H5P_DEFAULT, H5P_DEFAULT), H5Fclose))
                    .first;
        }
        const Handle to(H5Gcreate2(file->second, group.c_str(), H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT),
                        H5Gclose);
        putText(to, "kind", factText(label.facts, label_fact::kKind));
        putText(to, "asset", asset);
        putText(to, "start", toIso(label.start));
        putText(to, "end", toIso(label.end));
        std::vector<std::int64_t> times(data.rows());
        for (std::size_t i = 0; i < times.size(); ++i)
            times[i] = epochNanoseconds(data.from + static_cast<std::int64_t>(i) * data.step);
        putNumbers(to, "time", H5T_STD_I64LE, H5T_NATIVE_INT64, times.data(), times.size());
        for (std::size_t i = 0; i < data.tags.size(); ++i) {
            const Tag& tag = data.tags[i];
            const Handle set = putNumbers(to, asOneName(tag.name), H5T_IEEE_F64LE, H5T_NATIVE_DOUBLE,
                                          data.values[i].data(), data.rows());
            putText(set, "unit", tag.unit);
            if (tag.kind == TagKind::State) putTexts(set, "states", tag.states);
        }
        return name + "/" + group;
    }

  private:
    fs::path folder_;
    std::map<std::string, Handle> files_;
};

}  // namespace

std::unique_ptr<CutWriter> makeCutWriter(CutFormat format, fs::path folder) {
    if (format == CutFormat::Hdf5) return std::make_unique<Hdf5Writer>(std::move(folder));
    return std::make_unique<CsvWriter>(std::move(folder));
}

}  // namespace jacinth
