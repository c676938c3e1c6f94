#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <utility>

#include "lattice/tensor/tensor.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// A step of preparation that has no factors to fit, such as local contrast. A subject derives from
/// it.
class Scaler {
 public:
  Scaler() = default;
  Scaler(const Scaler&) = default;
  Scaler& operator=(const Scaler&) = default;
  virtual ~Scaler() = default;

  /// As it is written in a lesson: `contrast 9`.
  [[nodiscard]] virtual std::string text() const = 0;

  /// @throws SettingError for settings out of range; ShapeError for an example that it is not for.
  virtual void check(const Shape& example) const = 0;

  /// @param examples [example × …], after the steps before
  [[nodiscard]] virtual Tensor scaled(const Tensor& examples) const = 0;

  /// The same on a worksheet.
  /// @param ending a suffix for the names of its lines: `2` for a second step, else empty
  [[nodiscard]] virtual Line scaled(const Line& examples, std::string_view ending) const = 0;
};

/// Your own step; the default is none.
class OwnScaling {
 public:
  OwnScaling() = default;
  explicit OwnScaling(std::shared_ptr<const Scaler> how) : how_(std::move(how)) {}

  [[nodiscard]] bool empty() const { return how_ == nullptr; }
  [[nodiscard]] const Scaler* operator->() const { return how_.get(); }

  friend bool operator==(const OwnScaling& a, const OwnScaling& b) {
    return a.empty() || b.empty() ? a.empty() == b.empty() : a->text() == b->text();
  }

 private:
  std::shared_ptr<const Scaler> how_ = nullptr;
};

/// A word for such a step, and the function that reads it.
struct ScalingWord {
  std::string_view word;                       ///< the first of them: `contrast`
  std::string_view example;                    ///< `contrast 9`
  OwnScaling (*parse)(std::string_view text);  ///< throws SettingError that lists what is allowed
};

/// Adds a word for `parse_scaling`.
void know(const ScalingWord& word);

}  // namespace lattice
