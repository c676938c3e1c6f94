#include <fmt/format.h>

#include <memory>
#include <optional>

#include "lattice/files/pictures.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/show/plan.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

/// The shape of an example where it is said, with a network for it, and no data are needed.
std::optional<Shape> example_asked(const Lesson& lesson,
                                   const std::optional<std::int64_t>& inputs) {
  if (lesson.blueprint.empty()) return std::nullopt;
  if (inputs) return Shape{*inputs}.with({Role::feature});
  if (lesson.picture.empty() || lesson.names_data()) return std::nullopt;
  return parse_picture_shape(lesson.picture);
}

/// How much memory the numbers of a minibatch take that stay on the worksheet for the way back.
std::string memory_told(const Prepared& prepared) {
  const bool is_single = prepared.network.precision() == Precision::single;
  const auto bytes = static_cast<double>(prepared.network.plan().written() *
                                         prepared.training.batch * (is_single ? 4 : 8));
  const auto in_words = [](double count) {
    constexpr double kilo = 1000.0;
    if (count < kilo * kilo) return fmt::format("{:.1f} KB", count / kilo);
    return fmt::format("{:.1f} MB", count / (kilo * kilo));
  };
  return fmt::format("Those of a minibatch of {} take {} in {} precision.\n",
                     prepared.training.batch, in_words(bytes), word(prepared.network.precision()));
}

}  // namespace

Verb plan_verb(Console& console) {
  struct Asked {
    LessonOptions options;
    std::optional<std::int64_t> inputs = std::nullopt;
    bool is_open = false;
  };
  auto asked = std::make_shared<Asked>();
  Verb verb("plan", "Pass a shape through a network: outputs and weights part by part");
  asked->options.declare(verb);
  verb.heading("Network");
  verb.read(
      "--inputs",
      [asked](const std::string& text) {
        asked->inputs = whole_number("--inputs", text, 1, 1'000'000);
      },
      "So many features instead of those of the data", "N");
  verb.flag("--open", asked->is_open,
            "Show groups that are alike part by part, and not only the first of them");
  verb.runs([asked, &console] {
    const Lesson lesson = asked->options.lesson();
    const std::optional<Shape> example = example_asked(lesson, asked->inputs);
    std::optional<Prepared> prepared;
    if (!example) prepared = prepare(lesson);
    const Plan passed =
        example ? plan(*example, parse_blueprint(lesson.blueprint)) : prepared->network.plan();
    if (asked->options.json) {
      Json json = to_json(passed);
      json["settings"] = settings_json(lesson);
      write(console.out, json);
      return;
    }
    console.out << show_plan(passed, console.style,
                             asked->is_open ? Groups::opened : Groups::folded);
    if (prepared) console.out << memory_told(*prepared);
  });
  return verb;
}

}  // namespace lattice::tools
