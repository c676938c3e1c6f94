#include <fmt/format.h>

#include <limits>
#include <memory>

#include "lattice/learning/training.hpp"
#include "tools/commands.hpp"
#include "tools/settings.hpp"

namespace lattice::tools {
namespace {

/// Says on stderr how far a run has come: one line that changes on a terminal, about twenty lines
/// elsewhere.
class Progress {
 public:
  Progress(Console& console, std::int64_t epochs) : console_(console), epochs_(epochs) {}

  void operator()(const EpochFigures& figures) const {
    const std::int64_t step = std::max<std::int64_t>(1, epochs_ / 20);
    const bool last = figures.epoch == epochs_;
    if (!console_.err_is_terminal && figures.epoch % step != 0 && !last) return;
    const std::string text = fmt::format("epoch {} of {}: cost of the whole set {}", figures.epoch,
                                         epochs_, format_number(figures.whole_cost));
    if (console_.err_is_terminal) {
      console_.err << "\r\x1b[K" << text << (last ? "\n" : "") << std::flush;
    } else {
      console_.err << text << "\n";
    }
  }

 private:
  Console& console_;
  std::int64_t epochs_;
};

Json weights_json(const Weights& weights) {
  Json json = Json::object();
  for (const Weight& weight : weights)
    json[weight.name] = to_json(weight.value);
  return json;
}

}  // namespace

void add_train(CLI::App& app, Console& console) {
  struct Asked {
    Settings settings;
    std::int64_t epochs = 20;
  };
  auto asked = std::make_shared<Asked>();
  CLI::App& verb = *app.add_subcommand("train", "Train on every minibatch, epoch after epoch");
  asked->settings.declare(verb);
  verb.add_option_function<std::string>(
          "--epochs",
          [asked](const std::string& text) {
            asked->epochs = whole_number("--epochs", text, 1, 1'000'000);
          },
          "How many times every row is seen (default 20)")
      ->type_name("N")
      ->group("Learning");
  verb.callback([asked, &console] {
    const Settings& settings = asked->settings;
    Lesson lesson(settings);
    const Weights start = lesson.model.weights;
    const RunRecord run = train(lesson.model, lesson.data,
                                {.rule = {.rate = settings.rate},
                                 .epochs = asked->epochs,
                                 .batch = lesson.batch,
                                 .observer = Progress(console, asked->epochs)},
                                lesson.row_order);
    console.err << fmt::format("{} epochs in {} s\n", asked->epochs, format_number(run.seconds, 3));
    if (run.epochs.back().whole_cost > run.epochs.front().whole_cost) {
      console.err << "The cost has risen: the steps were too long. Try a smaller --rate, or "
                     "--scale standard.\n";
    }
    if (settings.json) {
      Json json = to_json(run);
      json["weights"] = {{"start", weights_json(start)},
                         {"end", weights_json(lesson.model.weights)}};
      json["settings"] = settings_json(settings, lesson);
      json["settings"]["epochs"] = asked->epochs;
      write(console.out, json);
      return;
    }
    TerminalStyle style = console.style;
    style.digits = settings.digits;
    console.out << settings_text(settings, lesson, style) << show_heading("cost by epoch", style)
                << show_run(run, style) << "\n"
                << show_heading("weights learnt", style);
    for (const Weight& weight : lesson.model.weights) {
      console.out << weight.name << " " << to_string(weight.value.shape()) << "\n"
                  << show_tensor(weight.value, style, lesson.names()) << "\n";
    }
  });
}

}  // namespace lattice::tools
