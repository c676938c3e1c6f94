#include <fmt/format.h>

#include <memory>
#include <optional>

#include "lattice/data/row_kind.hpp"
#include "lattice/show/plan.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/wrapping.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/run_lesson.hpp"
#include "tools/run_time.hpp"

namespace lattice::tools {
namespace {

/// What a run keeps in memory, in bytes.
struct Memory {
  std::int64_t batch = 1;  ///< rows of a minibatch
  std::int64_t weights = 0;
  std::int64_t gradients = 0;
  std::int64_t state = 0;  ///< what the rule remembers between updates
  std::int64_t minibatch = 0;

  [[nodiscard]] std::int64_t all() const { return weights + gradients + state + minibatch; }
};

/// @param batch rows of a minibatch
Memory memory_of(const Lesson& lesson, const Plan& plan, std::int64_t batch) {
  const std::int64_t each = lesson.network.precision == Precision::single ? 4 : 8;
  std::int64_t running = 0;
  for (const Plan::Row& row : plan.rows) {
    for (const WeightNeed& need : row.needs)
      running += need.is_running ? need.shape.count() : 0;
  }
  const auto remembered = std::ssize(rule_of(lesson).memory_names());
  return {.batch = plan.together ? 1 : batch,
          .weights = (plan.weights() + running) * each,
          .gradients = plan.weights() * each,
          .state = remembered * plan.weights() * each,
          .minibatch = plan.written() * (plan.together ? 1 : batch) * each};
}

std::string bytes_in_words(std::int64_t bytes) {
  constexpr double kilo = 1000.0;
  const auto count = static_cast<double>(bytes);
  if (count < kilo) return fmt::format("{} B", bytes);
  if (count < kilo * kilo) return fmt::format("{:.1f} KB", count / kilo);
  if (count < kilo * kilo * kilo) return fmt::format("{:.1f} MB", count / (kilo * kilo));
  return fmt::format("{:.1f} GB", count / (kilo * kilo * kilo));
}

std::string memory_told(const Memory& memory, const Lesson& lesson, const Plan& plan,
                        std::size_t width) {
  const std::string state = memory.state == 0 ? ""
                                              : fmt::format("what {} remembers {}, ", lesson.rule,
                                                            bytes_in_words(memory.state));
  return paragraph(
      fmt::format("Memory in {} precision: weights {}, their gradients {}, {}{} on the worksheet "
                  "{}; together "
                  "{}.",
                  word(lesson.network.precision), bytes_in_words(memory.weights),
                  bytes_in_words(memory.gradients), state,
                  plan.together ? plan.whole : fmt::format("a minibatch of {}", memory.batch),
                  bytes_in_words(memory.minibatch), bytes_in_words(memory.all())),
      width);
}

Json to_json(const Memory& memory) {
  return {{"batch", memory.batch}, {"weights", memory.weights},     {"gradients", memory.gradients},
          {"rule", memory.state},  {"minibatch", memory.minibatch}, {"together", memory.all()}};
}

void declare_plan(Verb& verb, Console& console) {
  struct Asked {
    LessonOptions options;
    std::optional<std::int64_t> inputs = std::nullopt;
    bool is_open = false;
    bool is_timed = false;
  };
  auto asked = std::make_shared<Asked>();
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
  verb.flag("--time", asked->is_timed,
            "Train a copy for two seconds and estimate the time of an epoch and of the run");
  verb.runs([asked, &console] {
    const Lesson lesson = asked->options.lesson();
    const std::optional<Plan> by_shape = plan_without_data(lesson, asked->inputs);
    if (asked->is_timed && by_shape) {
      throw SettingError({.what = "--time needs the rows of the run",
                          .expected = "data: a demo set, or --file",
                          .found = "the shape of an example alone",
                          .remedy = "lattice plan glazes --time"});
    }
    std::optional<Prepared> prepared;
    if (!by_shape) prepared = prepare(lesson);
    Plan passed = by_shape ? *by_shape : prepared->network.plan();
    if (prepared) {
      if (const RowKind& kind = kind_of(prepared->data()); kind.plan_for_all != nullptr)
        passed = kind.plan_for_all(passed, prepared->split.data());
    }
    constexpr std::int64_t usual_batch = 16;
    const Memory memory = memory_of(
        lesson, passed, prepared ? prepared->training.batch : lesson.batch.value_or(usual_batch));
    if (asked->options.json) {
      Json json = lattice::to_json(passed);
      json["memory_bytes"] = to_json(memory);
      if (asked->is_timed) json["seconds"] = to_json(time_of(*prepared));
      json["settings"] = settings_json(lesson);
      write(console.out, json);
      return;
    }
    console.out << show_plan(passed, console.style,
                             asked->is_open ? Groups::opened : Groups::folded);
    console.out << memory_told(memory, lesson, passed, console.style.width);
    if (asked->is_timed) console.out << told(time_of(*prepared), console.style.width);
  });
}

}  // namespace

Verb plan_verb(Console& console) {
  return {"plan", "Print each layer's output shape and weights", console, declare_plan};
}

}  // namespace lattice::tools
