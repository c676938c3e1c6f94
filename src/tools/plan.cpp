#include <fmt/format.h>

#include <memory>
#include <optional>

#include "lattice/data/row_kind.hpp"
#include "lattice/show/plan.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

/// How much memory the numbers of a minibatch take that stay on the worksheet for the way back.
std::string memory_told(const Prepared& prepared, const Plan& plan) {
  const bool is_single = prepared.network.precision() == Precision::single;
  const std::int64_t times = plan.together ? 1 : prepared.training.batch;
  const auto bytes = static_cast<double>(plan.written() * times * (is_single ? 4 : 8));
  const auto in_words = [](double count) {
    constexpr double kilo = 1000.0;
    if (count < kilo * kilo) return fmt::format("{:.1f} KB", count / kilo);
    return fmt::format("{:.1f} MB", count / (kilo * kilo));
  };
  const std::string whose =
      plan.together ? "These" : fmt::format("Those of a minibatch of {}", prepared.training.batch);
  return fmt::format("{} take {} in {} precision.\n", whose, in_words(bytes),
                     word(prepared.network.precision()));
}

}  // namespace

Verb plan_verb(Console& console) {
  struct Asked {
    LessonOptions options;
    std::optional<std::int64_t> inputs = std::nullopt;
    bool is_open = false;
  };
  auto asked = std::make_shared<Asked>();
  Verb verb("plan", "Print each layer's output shape and weights");
  asked->options.declare(verb, console);
  verb.heading("Network");
  verb.read(
      "--inputs",
      [asked](const std::string& text) {
        asked->inputs = whole_number("--inputs", text, 1, 1'000'000);
      },
      "So many features instead of those of the data", "N");
  verb.flag("--open", asked->is_open,
            "Show groups that are alike layer by layer, and not only the first of them");
  verb.runs([asked, &console] {
    const Lesson lesson = asked->options.lesson();
    const std::optional<Plan> by_shape = plan_without_data(lesson, asked->inputs);
    std::optional<Prepared> prepared;
    if (!by_shape) prepared = prepare(lesson);
    Plan passed = by_shape ? *by_shape : prepared->network.plan();
    if (prepared) {
      if (const RowKind& kind = kind_of(prepared->data()); kind.plan_for_all != nullptr)
        passed = kind.plan_for_all(passed, prepared->split.data());
    }
    if (asked->options.json) {
      Json json = to_json(passed);
      json["settings"] = settings_json(lesson);
      write(console.out, json);
      return;
    }
    console.out << show_plan(passed, console.style,
                             asked->is_open ? Groups::opened : Groups::folded);
    if (prepared) console.out << memory_told(*prepared, passed);
  });
  return verb;
}

}  // namespace lattice::tools
