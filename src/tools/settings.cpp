#include "tools/settings.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <cmath>
#include <limits>
#include <utility>

#include "lattice/data/demo_sets.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/tensor/error.hpp"
#include "lattice/tensor/text.hpp"
#include "tools/version.hpp"

namespace lattice::tools {
namespace {

constexpr std::int64_t usual_batch = 8;

template <class Number>
Number read_whole(const std::string& option, const std::string& text, Number low, Number high) {
  Number number{};
  const char* const end = text.data() + text.size();
  const auto [stop, problem] = std::from_chars(text.data(), end, number);
  if (problem == std::errc() && stop == end && number >= low && number <= high) return number;
  throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                      .expected = high == std::numeric_limits<Number>::max()
                                      ? fmt::format("a whole number, {} or more", low)
                                      : fmt::format("a whole number from {} to {}", low, high),
                      .found = fmt::format("'{}'", text)});
}

/// Reads `W=0.5,-0.2`.
std::pair<std::string, std::vector<double>> read_start(const std::string& text) {
  const std::size_t equals = text.find('=');
  const auto refuse = [&](const std::string& found) {
    return SettingError({.what = fmt::format("--start {} cannot be read", text),
                         .expected = "a weight and its numbers, such as W=0.5,-0.2 or b=0",
                         .found = found});
  };
  if (equals == std::string::npos || equals == 0) throw refuse("no name before an =");
  std::vector<double> numbers;
  for (std::size_t from = equals + 1; from <= text.size();) {
    const std::size_t comma = std::min(text.find(',', from), text.size());
    const std::string field = text.substr(from, comma - from);
    const std::optional<double> number = parse_number(field);
    if (!number || !std::isfinite(*number)) throw refuse(fmt::format("'{}'", field));
    numbers.push_back(*number);
    from = comma + 1;
  }
  return {text.substr(0, equals), std::move(numbers)};
}

Dataset read_data(const Settings& settings) {
  if (settings.file.empty()) {
    if (!settings.target.empty() || !settings.features.empty()) {
      throw SettingError({.what = "--target and --features choose columns of a file",
                          .expected = "--file my.csv with them",
                          .found = fmt::format("the demo set {}", settings.set),
                          .remedy = fmt::format("--file demo/data/{}.csv", settings.set)});
    }
    return demo_set(settings.set);
  }
  return read_csv(settings.file, {.target = settings.target, .features = settings.features});
}

/// Puts the numbers given by hand in place of those the model would start with.
void set_start(LinearModel& model, const Settings& settings) {
  for (const auto& [name, numbers] : settings.start) {
    Tensor& weight = model.weights[name];
    if (std::ssize(numbers) != weight.count()) {
      throw SettingError(
          {.what = fmt::format("--start {} has another count of numbers than {}", name, name),
           .expected = fmt::format("{} for {} {}", weight.count(), name, to_string(weight.shape())),
           .found = fmt::format("{}: {}", numbers.size(), fmt::join(numbers, ", "))});
    }
    weight = tensor(weight.shape(), numbers, settings.precision);
  }
}

Json start_json(const Settings& settings) {
  Json start = Json::object();
  for (const auto& [name, numbers] : settings.start)
    start[name] = numbers;
  return start;
}

}  // namespace

void Settings::declare(CLI::App& verb) {
  const auto text_option = [&](const char* name, auto read, const char* sentence,
                               const char* type) {
    return verb.add_option_function<std::string>(name, read, sentence)->type_name(type);
  };
  verb.add_option("set", set, "A demo set: kiln or shrinkage")
      ->capture_default_str()
      ->group("Data");
  verb.add_option("--file", file, "Learn from a CSV file with a header row instead")
      ->type_name("PATH")
      ->group("Data");
  verb.add_option("--target", target, "The column of the file to predict")
      ->type_name("NAME")
      ->group("Data");
  text_option(
      "--features", [this](const std::string& text) { features = parse_csv_record(text); },
      "The columns to predict it from; all others when left out", "NAME,NAME")
      ->group("Data");
  text_option(
      "--scale",
      [this](const std::string& text) {
        if (text != "none" && text != "standard") {
          throw SettingError({.what = fmt::format("--scale cannot be '{}'", text),
                              .expected = "none or standard",
                              .found = fmt::format("'{}'", text)});
        }
        scaled = text == "standard";
      },
      "none: features as they are (default); standard: mean 0 and spread 1 each", "HOW")
      ->group("Data");

  verb.add_option_function<std::vector<std::string>>(
          "--start",
          [this](const std::vector<std::string>& texts) {
            for (const std::string& text : texts) {
              auto [name, numbers] = read_start(text);
              start.insert_or_assign(std::move(name), std::move(numbers));
            }
          },
          "Start a weight with numbers of your own; may be given for W and for b")
      ->allow_extra_args(false)
      ->type_name("W=N,N")
      ->group("Network");
  text_option(
      "--precision",
      [this](const std::string& text) {
        if (text != "double" && text != "single") {
          throw SettingError({.what = fmt::format("--precision cannot be '{}'", text),
                              .expected = "double or single",
                              .found = fmt::format("'{}'", text)});
        }
        precision = text == "double" ? Precision::double_ : Precision::single;
      },
      "double (default) or single", "HOW")
      ->group("Network");

  text_option(
      "--batch",
      [this](const std::string& text) {
        batch =
            read_whole<std::int64_t>("--batch", text, 1, std::numeric_limits<std::int64_t>::max());
      },
      "Rows in a minibatch (default 8)", "N")
      ->group("Learning");
  text_option(
      "--rate", [this](const std::string& text) { rate = positive_number("--rate", text); },
      "The learning rate (default 0.01)", "NUMBER")
      ->group("Learning");
  text_option(
      "--seed",
      [this](const std::string& text) {
        seed =
            read_whole<std::uint64_t>("--seed", text, 0, std::numeric_limits<std::uint64_t>::max());
      },
      "Decides which rows are drawn and where weights start (default 1)", "N")
      ->group("Learning");

  text_option(
      "--digits",
      [this](const std::string& text) {
        digits = static_cast<int>(whole_number("--digits", text, 1, all_digits));
      },
      "Significant digits of printed numbers, 1 to 17 (default 5)", "N")
      ->group("Printing");
  verb.add_flag("--json", json, "Print one JSON document and nothing else")->group("Printing");
}

Lesson::Lesson(const Settings& settings) : Lesson(settings, Random(settings.seed)) {}

Lesson::Lesson(const Settings& settings, Random random)
    : data(read_data(settings).in(settings.precision)),
      row_order(random.branch("rows")),
      batch(settings.batch.value_or(std::min<std::int64_t>(usual_batch, data.rows()))) {
  Random start = random.branch("start");
  model = LinearModel::start(data, start);
  if (settings.scaled) model.scaling = fit_standard_scaling(data.features);
  set_start(model, settings);
}

WorkedExample Lesson::work(const Settings& settings) const {
  Random order = row_order;
  Minibatches epoch = minibatches(data, {.size = batch}, order);
  const WriteDown write_down = [this](Worksheet& sheet, const Weights& weights, const Batch& rows) {
    return LinearModel{weights, model.scaling}.write_down(sheet, rows);
  };
  return {write_down, model.weights, *epoch.begin(), Descent{.rate = settings.rate}};
}

Json settings_json(const Settings& settings, const Lesson& lesson) {
  return {{"version", version},
          {"data", lesson.data.name},
          {"rows", lesson.data.rows()},
          {"features", lesson.data.feature_names},
          {"target", lesson.data.target_name},
          {"scale", settings.scaled ? "standard" : "none"},
          {"start", start_json(settings)},
          {"precision", word(settings.precision)},
          {"batch", lesson.batch},
          {"rate", settings.rate},
          {"seed", settings.seed}};
}

std::string settings_text(const Settings& settings, const Lesson& lesson,
                          const TerminalStyle& style) {
  return fmt::format(
      "Open Lattice {} · {}: {} from {}, {} rows\n"
      "batch {} · rate {} · seed {} · {} precision · features {}\n\n",
      version, lesson.data.name, lesson.data.target_name,
      fmt::join(lesson.data.feature_names, ", "), lesson.data.rows(), lesson.batch,
      format_number(settings.rate, style.digits), settings.seed, word(settings.precision),
      settings.scaled ? "scaled to mean 0 and spread 1" : "as they are");
}

void write(std::ostream& out, const Json& json) {
  out << json.dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
}

std::int64_t whole_number(const std::string& option, const std::string& text, std::int64_t low,
                          std::int64_t high) {
  return read_whole<std::int64_t>(option, text, low, high);
}

double positive_number(const std::string& option, const std::string& text) {
  const std::optional<double> number = parse_number(text);
  if (number && std::isfinite(*number) && *number > 0.0) return *number;
  throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                      .expected = "a number above 0, such as 0.01",
                      .found = number ? format_number(*number) : "no number"});
}

}  // namespace lattice::tools
