#pragma once

#include <any>
#include <map>
#include <typeindex>

namespace lattice {

/// The settings of subjects, one value of each type.
class OwnSettings {
 public:
  /// The value of a type, for changing it; at first default-constructed.
  template <class Settings>
  [[nodiscard]] Settings& of() {
    std::any& value = values_[typeid(Settings)];
    if (!value.has_value()) value = Settings();
    return *std::any_cast<Settings>(&value);
  }

  template <class Settings>
  [[nodiscard]] const Settings& of() const {
    static const Settings usual = {};
    const auto found = values_.find(typeid(Settings));
    return found == values_.end() ? usual : *std::any_cast<Settings>(&found->second);
  }

 private:
  std::map<std::type_index, std::any> values_ = {};
};

}  // namespace lattice
