#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/worksheet/sheet_functions.hpp"
#include "worksheet/sheets/tree.hpp"

namespace lattice::sheets {

class Reader;

/// Refuses a line and numbers that are not on the worksheet in one calculation.
[[noreturn]] void refuse_mixture();

/// Refuses more numbers than a line of the sheet may have.
void check_count(double numbers, std::int64_t most);

/// A call in a sheet that is being read.
class Call final : public SheetCall {
 public:
  Call(Reader& reader, std::vector<SheetValue> arguments, std::vector<Token> settings,
       std::string form);

  bool has_setting() override;
  bool takes(std::string_view words) override;
  double take_number(std::string_view what) override;
  std::int64_t take_whole(std::string_view what, std::int64_t low) override;
  std::optional<int> takes_axis(const Shape& shape) override;
  Shape take_shape() override;
  std::size_t take_argument() override;
  [[nodiscard]] Random& random() override;
  [[nodiscard]] Precision precision() const override;
  [[nodiscard]] std::int64_t most_numbers() const override;
  [[noreturn]] void refuse_setting(const std::string& expected) override;

  /// Refuses settings that were not taken.
  void check_is_used_up();

 private:
  Reader& reader_;
  Parser settings_;
  std::string form_;
};

}  // namespace lattice::sheets
