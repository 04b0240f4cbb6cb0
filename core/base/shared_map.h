// A map that many hold in common: copying it costs nothing, and whoever changes it gets one of its own.
#pragma once

#include <map>
#include <memory>
#include <string>

namespace jacinth {

/// By text. Reading from several threads is safe, as with a map; so is copying.
template <typename Value>
class SharedMap {
  public:
    using Map = std::map<std::string, Value>;
    SharedMap() : map_(std::make_shared<Map>()) {}
    explicit SharedMap(Map map) : map_(std::make_shared<Map>(std::move(map))) {}

    const Map& all() const { return *map_; }
    auto begin() const { return map_->cbegin(); }
    auto end() const { return map_->cend(); }
    auto find(const std::string& name) const { return map_->find(name); }
    bool contains(const std::string& name) const { return map_->contains(name); }
    const Value& at(const std::string& name) const { return map_->at(name); }
    std::size_t size() const { return map_->size(); }
    /// For changing; a map that others hold too is copied first.
    Value& operator[](const std::string& name) {
        if (map_.use_count() > 1) map_ = std::make_shared<Map>(*map_);
        return const_cast<Map&>(*map_)[name];
    }

  private:
    std::shared_ptr<const Map> map_;
};

}  // namespace jacinth
