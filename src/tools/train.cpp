#include <fmt/format.h>

#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <memory>
#include <system_error>
#include <thread>

#include "files/file.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/learning/look_through.hpp"
#include "lattice/show/run.hpp"
#include "lattice/text/error.hpp"
#include "show/passing_file.hpp"
#include "text/counted.hpp"
#include "text/typed.hpp"
#include "tools/commands.hpp"
#include "tools/interrupt.hpp"
#include "tools/options.hpp"
#include "tools/run_lesson.hpp"
#include "tools/watch_server.hpp"

namespace lattice::tools {
namespace {

struct TrainAsked {
  LessonOptions options;
  std::string save;
  std::string csv;
  std::int64_t save_every = 0;  ///< epochs; 0 for the end alone
  std::string resume;
  bool compact = false;
  bool readable = false;
  Say say = Say::some;
  bool serve = false;
  ServeSettings serving = {};

  /// Nothing where the number of weights decides.
  [[nodiscard]] std::optional<ModelFormat> format() const {
    if (compact) return ModelFormat::cbor;
    if (readable) return ModelFormat::json;
    return std::nullopt;
  }
};

Say parse_say(const std::string& text) {
  if (text == "nothing") return Say::nothing;
  if (text == "some") return Say::some;
  if (text == "much") return Say::much;
  throw SettingError({.what = fmt::format("--say cannot be '{}'", text),
                      .expected = "nothing, some or much",
                      .found = fmt::format("'{}'", text)});
}

/// A run keeps its settings to the end, but for these; with any other it is another experiment.
void refuse_other_settings(const TrainAsked& asked) {
  if (asked.options.names("from")) {
    throw SettingError({.what = "--resume and --from exclude each other",
                        .expected = "--resume or --from",
                        .found = "both",
                        .remedy = "--resume for the same run, --from for one of its own"});
  }
  constexpr std::array<std::string_view, 12> may_change = {
      "title",     "quiet", "file",        "epochs",      "updates",    "patience",
      "keep_best", "ahead", "judge_every", "steps_every", "flow_every", "confusion"};
  for (const LessonSetting& setting : lesson_settings()) {
    const bool may = std::ranges::find(may_change, setting.key) != may_change.end();
    if (may || !asked.options.names(setting.key)) continue;
    throw SettingError({.what = fmt::format("a resumed run keeps its {}", setting.key),
                        .expected = "--epochs, and how much to say, record and save",
                        .found = fmt::format("another {}", setting.key),
                        .remedy = "to train with other settings start over, without --resume"});
  }
}

/// Reads the run to go on with, and makes its lesson ready; checks that the data are the same.
Prepared resume(const TrainAsked& asked, const ModelFile& file, Lesson& lesson) {
  refuse_other_settings(asked);
  if (!asked.options.subject.empty()) {
    throw SettingError({.what = "a resumed run has its lesson in the model file",
                        .expected = "no other lesson",
                        .found = fmt::format("'{}'", asked.options.subject)});
  }
  lesson = asked.options.lesson_on(file.lesson);
  Prepared prepared = prepare(lesson);
  if (fingerprint(prepared.data()) != file.fingerprint) {
    throw SettingError(
        {.what = "a run can be resumed only on the rows it began with",
         .expected = fmt::format("{}, {}, as they were", file.data_name, counted(file.rows, "row")),
         .found = fmt::format("{}, {}, with other numbers", prepared.data().name,
                              counted(prepared.data().rows(), "row")),
         .remedy = "start over on the new rows, without --resume"});
  }
  return prepared;
}

/// Refuses a model where a lesson is to be named: there are three things that it may mean.
void refuse_model(const std::string& subject) {
  if (!is_model_file(subject)) return;
  static_cast<void>(load_model(subject));
  throw SettingError(
      {.what = fmt::format("{} is trained already", subject),
       .expected = "a lesson file or a demo set",
       .found = "a model",
       .remedy = fmt::format("to go on with its run: {}; for a run of its own that begins "
                             "with its weights: {}",
                             typed_flag("--resume", subject), typed_flag("--from", subject))});
}

/// Says which weights begin as a model has learnt them, and which do not.
void say(const Prepared::Beginning& beginning, const Prepared& prepared, Console& console) {
  std::vector<std::string> others;
  for (const Weight& weight : prepared.network.weights()) {
    if (std::ranges::find(beginning.weights, weight.name) == beginning.weights.end())
      others.push_back(weight.name);
  }
  console.tell_line(
      fmt::format("a new run, from {}: {}", beginning.model, fmt::join(beginning.weights, ", ")));
  if (!others.empty()) console.tell_line(fmt::format("as they start: {}", fmt::join(others, ", ")));
  const std::vector<std::string>& features = prepared.data().feature_names;
  if (features != beginning.features) {
    console.tell_line(fmt::format("{} was trained on {}; here there are {}", beginning.model,
                                  fmt::join(beginning.features, ", "), fmt::join(features, ", ")));
  }
}

RunLength length_of(const Prepared& prepared, const RunRecord* before) {
  const TrainSettings& training = prepared.training;
  const std::int64_t steps = (prepared.split.train.count() + training.batch - 1) / training.batch;
  RunLength length{.first_epoch = before == nullptr ? 0 : before->last_epoch(),
                   .last_epoch = training.epochs,
                   .first_step = before == nullptr ? 0 : before->updates,
                   .last_step = training.updates.value_or(training.epochs * steps),
                   .evaluations = 1};
  if (training.updates) length.last_epoch = (*training.updates + steps - 1) / steps;
  length.evaluations = 1 + length.last_epoch / training.judge_every;
  length.last_epoch += length.first_epoch;
  length.last_step += length.first_step;
  return length;
}

/// Saves what was learnt. Where that fails it is saved elsewhere, so that no run is lost, and what
/// went wrong is given back, to be told after the results.
std::optional<FileError> save(const TrainAsked& asked, const ModelFile& file, Console& console) {
  const std::optional<ModelFormat> format = asked.format();
  try {
    save_model(asked.save, file, format);
    if (asked.say != Say::nothing) console.tell_line("saved as " + asked.save);
    return std::nullopt;
  } catch (const FileError& error) {
    Trouble trouble = error.trouble();
    const std::string name = fmt::format("lattice-rescued-{}.lattice", getpid());
    const char* const home = std::getenv("HOME");
    for (const std::filesystem::path& folder :
         {passing_place(), std::filesystem::path(home == nullptr ? "." : home),
          std::filesystem::path(".")}) {
      const std::string second = (folder / name).string();
      try {
        save_model(second, file, format);
        trouble.remedy = fmt::format("the weights are not lost: they were saved as {}", second);
        return FileError(trouble);
      } catch (const FileError&) {
        // The next place, then.
      }
    }
    trouble.remedy = "no other place was found for it: train again with another --save";
    return FileError(trouble);
  }
}

/// Saves a run that goes on. Where that fails it is told, and the run goes on: it is saved at its
/// end.
void save_on_the_way(const TrainAsked& asked, const ModelFile& file, Console& console) {
  try {
    save_model(asked.save, file, asked.format());
    if (asked.say != Say::nothing)
      console.tell_line(
          fmt::format("saved as {}, after epoch {}", asked.save, file.run.last_epoch()));
  } catch (const FileError& error) {
    console.tell(fmt::format("not saved after epoch {}, and the run goes on: {}\n",
                             file.run.last_epoch(), error.what()));
  }
}

/// Trains, and tells of it: on stderr, and to those who watch.
RunRecord run_watched(const TrainAsked& asked, Prepared& prepared, Network& network,
                      std::optional<ModelFile> before, const RunLength& length, WatchServer* server,
                      Console& console) {
  Progress progress(console, length, asked.say);
  const Training* going = nullptr;
  std::int64_t saved = length.first_epoch;
  prepared.training.observer = [&](const EpochFigures& figures) {
    progress.tell(figures);
    if (server != nullptr) server->tell(figures, network);
    const bool is_due = asked.save_every > 0 && figures.epoch - saved >= asked.save_every;
    if (!is_due || going == nullptr || figures.epoch >= length.last_epoch) return;
    saved = figures.epoch;
    save_on_the_way(asked, model_file_of(prepared, network, going->so_far()), console);
  };
  prepared.training.rate_observer = [&](const RateChange& change) { progress.tell(change); };
  prepared.training.step_observer = [&](const StepFigures& figures) {
    progress.tell(figures);
    if (server != nullptr) server->tell(figures);
  };
  prepared.training.should_stop = Interrupt::asked;
  Training training =
      before ? Training(network, std::move(before->run), prepared.split, prepared.training)
             : Training(network, prepared.split, prepared.training);
  going = &training;
  while (training.step())
    progress.tick(training);
  RunRecord run = training.finish();
  progress.finish();
  if (server != nullptr) server->tell_end(run, network);
  return run;
}

/// Shows the run on a page; nothing where the machine has no thread or file left for that. The run
/// needs neither.
std::unique_ptr<WatchServer> serve(const Prepared& prepared, std::int64_t last,
                                   const ServeSettings& settings, Console& console) {
  try {
    auto server = std::make_unique<WatchServer>(prepared, last, settings);
    console.err << fmt::format("to watch: {}\n", server->url()) << std::flush;
    return server;
  } catch (const std::system_error& error) {
    console.tell(
        fmt::format("the run cannot be watched: {}; it goes on without\n", error.code().message()));
    return nullptr;
  }
}

/// Leaves the page up until Ctrl-C.
void stay_up(const WatchServer& server, Console& console) {
  console.out << std::flush;
  console.err << fmt::format("{} stays up until Ctrl-C\n", server.url()) << std::flush;
  const Interrupt interrupt;
  while (!Interrupt::asked())
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
}

/// So many weights are printed at the end of a run; of more, assess --weights prints them.
constexpr std::int64_t most_shown = 16;

/// How long the run waited for minibatches, where that is worth a word.
std::string waiting_told(const RunRecord& run) {
  constexpr double worth_a_word = 0.01;
  if (run.waited < worth_a_word * run.seconds) return "";
  return fmt::format(", {} s of them waiting for minibatches", format_number(run.waited, 3));
}

/// How long the evaluations took, where that is worth a word.
std::string judging_told(const RunRecord& run) {
  constexpr double worth_a_word = 1.0;
  if (run.judged < worth_a_word) return "";
  return fmt::format(", {} s of them for evaluations", format_number(run.judged, 3));
}

/// What is noticed in what passes through the layers: as they start, unless that was told when the
/// run was begun, or else as they ended up.
std::vector<Remark> remarks_through(const Prepared& prepared, const Network& learnt,
                                    const RunRecord& run, bool is_resumed) {
  if (!run.trouble.empty()) return {};
  const auto at = [&](const Network& network, const char* when) {
    return remarks_on(look_through(network, prepared.loss, prepared.split.train), when);
  };
  std::vector<Remark> remarks;
  if (!is_resumed) remarks = at(prepared.network, "before training");
  return remarks.empty() ? at(learnt, "at the end") : remarks;
}

/// What passed through the layers, where that was asked for.
std::string flow_told(const RunRecord& run, const TerminalStyle& style) {
  if (run.flow.empty()) return "";
  return "\n" + show_heading("through the layers", style) +
         show_layer_flow(run.flow.front(), run.flow.back(), style);
}

void train_lesson(const TrainAsked& asked, Console& console) {
  std::optional<ModelFile> before;
  if (!asked.resume.empty()) before = load_model(asked.resume);
  if (!before) refuse_model(asked.options.subject);
  Lesson lesson;
  Prepared prepared =
      before ? resume(asked, *before, lesson) : prepare(lesson = asked.options.lesson());
  // A run may be gone on with in its own file.
  check_outputs({{"--save", asked.save}, {"--csv", asked.csv}}, asked.options.inputs(lesson),
                console);
  say(prepared.reading, console);
  if (prepared.beginning) say(*prepared.beginning, prepared, console);
  const TableReading& reading = prepared.reading;
  std::vector<Remark> remarks = remarks_on(reading.decimal_commas, reading.data.name);
  const auto add = [&](std::vector<Remark> more) {
    remarks.insert(remarks.end(), more.begin(), more.end());
  };
  add(remarks_on(prepared.split));
  if (!before) {
    add(remarks_on(prepared.network));
    add(remarks_on(prepared.network, prepared.split.train));
    if (lesson.training.over_rows == OverRows::sum && asked.options.names("batch"))
      add(remarks_on(prepare(lesson_named(asked.options.subject)).training, prepared.training));
  }

  const bool is_resumed = before.has_value();
  const RunLength length = length_of(prepared, before ? &before->run : nullptr);
  Network network = before ? before->model.network : prepared.network;
  const Interrupt interrupt;
  const std::unique_ptr<WatchServer> server =
      asked.serve ? serve(prepared, length.last_epoch, asked.serving, console) : nullptr;
  const RunRecord run =
      run_watched(asked, prepared, network, std::move(before), length, server.get(), console);
  if (asked.say != Say::nothing) {
    console.err << (run.updates == 0
                        ? std::string("no epoch was trained: the network is as it starts\n")
                        : fmt::format("{}, {} in {} s{}{}\n", counted(run.last_epoch(), "epoch"),
                                      counted(run.updates, "update"), format_number(run.seconds, 3),
                                      judging_told(run), waiting_told(run)));
  }
  if (!run.trouble.empty()) console.tell(run.trouble + "\n");
  // What begins from learnt weights does not begin with a guess.
  add(remarks_on(prepared.network, prepared.training, prepared.split.train.count(), run));
  add(remarks_through(prepared, network, run, is_resumed));
  const bool has_guess = !takes_levels(prepared.loss) && !prepared.beginning;
  add(remarks_on(run, has_guess ? prepared.data().class_count() : 0));
  remarks = without(remarks, lesson.quiet);
  std::optional<FileError> not_saved;
  if (!asked.save.empty()) not_saved = save(asked, model_file_of(prepared, network, run), console);
  if (!asked.csv.empty()) {
    const bool has_confusion = !prepared.training.confusion.empty();
    const std::vector<std::string> classes =
        has_confusion ? prepared.data().all_class_names() : std::vector<std::string>();
    write_file(asked.csv, to_csv(figures_table(prepared.title(), run, classes)));
    if (asked.say != Say::nothing) console.tell_line("written: " + asked.csv);
  }
  const NamedAssessments parts = assess_run(network, prepared);
  if (asked.options.json) {
    Json json = {{"parts", to_json(parts)},
                 {"run", lattice::to_json(run)},
                 {"weights", network.plan().weights()},
                 {"remarks", to_json(remarks)},
                 {"settings", settings_json(lesson)}};
    write(console.out, json);
  } else {
    TerminalStyle style = console.style;
    style.digits = asked.options.digits;
    console.out << settings_text(prepared, style) << show_heading("by epoch", style)
                << show_run(run, style) << flow_told(run, style);
    if (!parts.empty()) {
      console.out << "\n"
                  << show_heading("assessment", style)
                  << show_figures(parts, style, lesson.references);
    }
    if (network.plan().weights() <= most_shown) {
      const Model model = model_of(network, prepared.loss, prepared.split.train);
      console.out << "\n"
                  << show_heading(run.updates == 0 ? "initial weights" : "learnt", style)
                  << show_learnt(model, law_of(lesson), style);
    }
    say(remarks, lesson, console);
  }
  if (server != nullptr && !Interrupt::asked_for_good()) stay_up(*server, console);
  if (not_saved) throw FileError(*not_saved);
  if (run.ending == Ending::diverged) throw AnswerIsNo{};
}

void declare_train(Verb& verb, Console& console) {
  auto asked = std::make_shared<TrainAsked>();
  asked->options.declare(verb, console);
  verb.heading("Keeping");
  verb.file("--save", asked->save, "Save the trained network as a model file", "PATH");
  verb.read("--save-every",
            [asked](const std::string& text) {
              asked->save_every = whole_number("--save-every", text, 1, 1'000'000'000);
            },
            "Save every N epochs, too, so that an interrupted run can be resumed", "N",
            {.needs = "--save"});
  verb.file("--resume", asked->resume,
            "Go on with the run of a model file for --epochs or --updates more; without it the run "
            "starts over",
            "PATH");
  verb.file("--csv", asked->csv, "Write the figures of the run by epoch and step to a CSV file",
            "PATH");
  verb.flag("--compact", asked->compact,
            fmt::format("Save in fewer bytes (CBOR), as a network of more than {} weights is",
                        most_readable_weights));
  verb.flag("--readable", asked->readable, "Save as text (JSON), however many weights there are",
            {.excludes = "--compact"});
  verb.heading("Printing");
  verb.read(
      "--say", [asked](const std::string& text) { asked->say = parse_say(text); },
      "Progress messages: nothing, some (the default) or much", "HOW");
  verb.heading("Watching");
  verb.flag("--serve", asked->serve,
            "Show the run on a page of this machine while it goes on, and after it until Ctrl-C");
  verb.read(
      "--port",
      [asked](const std::string& text) {
        asked->serving.port = static_cast<int>(whole_number("--port", text, 0, 65535));
      },
      "The port of the page (default 8017); 0 for any that is free", "N");
  verb.text("--address", asked->serving.address,
            "Listen address: 127.0.0.1, this machine alone (the default), or 0.0.0.0", "ADDRESS");
  verb.runs([asked, &console] { train_lesson(*asked, console); });
}

}  // namespace

Verb train_verb(Console& console) {
  return {"train", "Train on every minibatch, epoch after epoch, and assess", console,
          declare_train};
}

}  // namespace lattice::tools
