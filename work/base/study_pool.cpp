#include "work/base/study_pool.h"

#include "store/sample_store.h"
#include "work/base/study_inputs.h"

namespace jacinth {

class StudyPool::Borrowed : public Inputs {
  public:
    Borrowed(StudyPool& pool, AssetId asset, TimeRange range, Which which,
             std::function<void(const StudyInputs&)> finished)
        : pool_(pool),
          study_(pool.take()),
          inputs_(*study_, asset, range, {}, which),
          finished_(std::move(finished)) {}
    ~Borrowed() override {
        if (finished_) finished_(inputs_);
        pool_.giveBack(std::move(study_));
    }
    Result<Signal> role(const std::string& name) override { return inputs_.role(name); }
    Result<Signal> path(const std::string& name) override { return inputs_.path(name); }
    Result<std::vector<TimeRange>> track(const std::string& name) override { return inputs_.track(name); }
    Result<LimitLines> limits(const std::string& set, const std::string& tag, bool isPath) override {
        return inputs_.limits(set, tag, isPath);
    }
    Result<Signal> trust(const std::string& tag, bool isPath) override { return inputs_.trust(tag, isPath); }

  private:
    StudyPool& pool_;
    std::unique_ptr<Study> study_;
    StudyInputs inputs_;
    std::function<void(const StudyInputs&)> finished_;
};

std::unique_ptr<Inputs> StudyPool::inputs(AssetId asset, TimeRange range, Which which,
                                          std::function<void(const StudyInputs&)> finished) {
    return std::make_unique<Borrowed>(*this, asset, range, which, std::move(finished));
}

std::unique_ptr<Study> StudyPool::take() {
    {
        const std::lock_guard lock(mutex_);
        if (!free_.empty()) {
            auto out = std::move(free_.back());
            free_.pop_back();
            return out;
        }
    }
    auto opened = Study::open(path_, true);
    if (!opened) throw StoreError(opened.error().message);
    return std::move(*opened);
}

void StudyPool::giveBack(std::unique_ptr<Study> study) {
    study->samples().forget();  // what one piece read, the next does not need
    const std::lock_guard lock(mutex_);
    free_.push_back(std::move(study));
}

}  // namespace jacinth
