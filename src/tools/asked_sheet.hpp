#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tools/answer_options.hpp"
#include "tools/options.hpp"
#include "tools/sheets.hpp"

namespace lattice::tools {

/// One worked sheet that a verb is about.
struct AskedSheet {
  WorkedSheet work;
  AxisNames names;
  std::string data;                ///< what its data are called; empty for numbers of its own
  std::vector<std::string> words;  ///< its settings, for the top of the output
  Json settings;                   ///< the same for JSON
  std::optional<std::int64_t> step = std::nullopt;  ///< of a lesson
};

/// Which sheet it is: a minibatch of a lesson, answers of a model, or a sheet of one's own.
class SheetQuestion {
 public:
  /// Whether a verb can be about the answers of a model.
  enum class Answers : std::uint8_t { no, yes };

  /// Declares `--step`, and the options of answers and of sheets.
  void declare(Verb& verb, Answers answers);

  /// @throws as preparing, loading and `read_sheet` do; SettingError for a step of a model.
  [[nodiscard]] AskedSheet work(const LessonOptions& options, Console& console) const;

 private:
  [[nodiscard]] AskedSheet of_model(const LessonOptions& options, Console& console) const;
  [[nodiscard]] AskedSheet of_sheet(const LessonOptions& options, const Console& console) const;

  std::optional<std::int64_t> step_ = std::nullopt;
  bool has_answers_ = false;
  AnswerOptions answers_ = {};
  SheetOptions sheet_ = {};
};

}  // namespace lattice::tools
