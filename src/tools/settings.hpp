#pragma once

#include <CLI/App.hpp>
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/network/linear_model.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// What `work`, `why` and `train` are told on the command line; the same words mean the same thing
/// in each.
struct Settings {
  // The data
  std::string set = "kiln";
  std::string file;
  std::string target;
  std::vector<std::string> features;
  bool scaled = false;

  // The network
  std::map<std::string, std::vector<double>> start;
  Precision precision = Precision::double_;

  // Learning
  std::optional<std::int64_t> batch = std::nullopt;
  double rate = 0.01;
  std::uint64_t seed = 1;

  // What is printed
  int digits = usual_digits;
  bool json = false;

  /// Declares the options on a verb.
  void declare(CLI::App& verb);
};

/// A dataset, the model that learns it, and the random numbers for the order of rows, made from
/// settings. The same settings give the same lesson, whichever command asks.
struct Lesson {
  Dataset data;
  LinearModel model;
  Random row_order;
  std::int64_t batch;  ///< what was asked for; else 8, or all rows where there are fewer

  explicit Lesson(const Settings& settings);

  /// The first minibatch of the first epoch, worked.
  [[nodiscard]] WorkedExample work(const Settings& settings) const;

  [[nodiscard]] AxisNames names() const { return {data.feature_names, data.target_name}; }

 private:
  Lesson(const Settings& settings, Random random);
};

/// The settings and the version, as every answer in JSON has them.
[[nodiscard]] Json settings_json(const Settings& settings, const Lesson& lesson);

/// The same in two lines, for the top of a page.
[[nodiscard]] std::string settings_text(const Settings& settings, const Lesson& lesson,
                                        const TerminalStyle& style);

/// Writes a JSON document.
void write(std::ostream& out, const Json& json);

/// A whole number in a range, from the text of an option. @throws SettingError.
[[nodiscard]] std::int64_t whole_number(const std::string& option, const std::string& text,
                                        std::int64_t low, std::int64_t high);

/// A number above 0, from the text of an option. @throws SettingError.
[[nodiscard]] double positive_number(const std::string& option, const std::string& text);

}  // namespace lattice::tools
