#include "lattice/show/judgement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <functional>
#include <numeric>

#include "lattice/data/row_kind.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/ink.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

using Set = TextTable::Set;

/// One figure of every part in a row; the gap between the first part and the last behind it.
void add_row(TextTable& table, const NamedAssessments& parts, const std::string& name,
             const std::function<double(const Assessment&)>& figure, const TerminalStyle& style,
             bool with_gap = true) {
  std::vector<TextTable::Entry> row = {name};
  for (const auto& [part, assessment] : parts)
    row.emplace_back(format_number(figure(assessment), style.digits));
  if (parts.size() > 1) {
    const double gap = figure(parts.back().second) - figure(parts.front().second);
    row.emplace_back(with_gap ? format_number(gap, std::min(style.digits, 3)) : "");
  }
  table.add(std::move(row));
}

std::string share(double part) {
  return fmt::format("{:.1f} %", 100.0 * part);
}

/// A share of 1 as a bar of eighths of letters, filled up with blanks.
std::string bar_of(double share) {
  constexpr std::array<std::string_view, 8> eighths = {"", "▏", "▎", "▍", "▌", "▋", "▊", "▉"};
  constexpr std::int64_t width = 50;
  const std::int64_t eighth = std::llround(std::clamp(share, 0.0, 1.0) * width * 8);
  std::string bar;
  for (std::int64_t at = 0; at < eighth / 8; ++at)
    bar += "█";
  bar += eighths.at(static_cast<std::size_t>(eighth % 8));
  const std::int64_t letters = (eighth + 7) / 8;
  return bar + std::string(static_cast<std::size_t>(width - letters), ' ');
}

/// The classes of a record, the likeliest first.
std::vector<std::size_t> by_likelihood(const Answers& answers, std::int64_t record) {
  std::vector<std::size_t> classes(static_cast<std::size_t>(answers.probabilities.shape()[1]));
  std::iota(classes.begin(), classes.end(), std::size_t{0});
  std::ranges::stable_sort(classes, std::ranges::greater(), [&](std::size_t of) {
    return answers.probabilities.at({record, static_cast<std::int64_t>(of)});
  });
  return classes;
}

/// The classes that bars are drawn for: all of them in their order, or the likeliest of many.
std::vector<std::size_t> classes_drawn(const Answers& answers, std::int64_t record) {
  constexpr std::size_t most = 12;
  std::vector<std::size_t> classes = by_likelihood(answers, record);
  if (classes.size() <= most) {
    std::ranges::sort(classes);
  } else {
    classes.resize(most);
  }
  return classes;
}

/// What stands where a model has none.
constexpr std::string_view no_answer = "no answer";

/// What a model says about a record: the probability of each class as a bar.
std::string bars_of(const Model& model, const Answers& answers, std::int64_t record,
                    const TerminalStyle& style, const AnswersView& view) {
  const std::string who = fmt::format("{} {}", model.rows ? kind_of(*model.rows).one : "record",
                                      answers.name_of(record));
  const std::string words =
      view.records.empty()
          ? ""
          : paragraph(harmless(view.records[static_cast<std::size_t>(record)]), style.width);
  if (!answers.has_answer(record))
    return fmt::format("{}{}  {}\n", words, harmless(who), no_answer);
  const auto likeliest = static_cast<std::size_t>(answers.classes.at_offset(record));
  constexpr std::size_t longest_name = 30;
  TextTable table(
      {{who, Set::left},
       {fmt::format("{}: {}", model.target_names.front(), model.class_names[likeliest]), Set::left},
       {"probability"}});
  const std::vector<std::size_t> classes = classes_drawn(answers, record);
  for (const std::size_t of : classes) {
    const double probability = answers.probabilities.at({record, static_cast<std::int64_t>(of)});
    const std::string_view colour = of == likeliest ? ink::positive : ink::faint;
    table.add({{cut_to(model.class_names[of], longest_name),
                of == likeliest ? ink::positive : std::string_view()},
               {bar_of(probability), colour},
               {share(probability), of == likeliest ? ink::positive : std::string_view()}});
  }
  std::string text = words + table.text(style);
  if (classes.size() < model.class_names.size()) {
    text +=
        fmt::format("(the {} likeliest of {} classes)\n", classes.size(), model.class_names.size());
  }
  return text;
}

}  // namespace

std::string show_figures(const NamedAssessments& parts, const TerminalStyle& style,
                         const std::vector<Reference>& references) {
  std::vector<TextTable::Heading> headings = {{"", Set::left}};
  for (const auto& [part, assessment] : parts)
    headings.push_back({part});
  if (parts.size() > 1) headings.push_back({"gap"});
  TextTable table(headings);
  add_row(
      table, parts, "rows", [](const Assessment& a) { return static_cast<double>(a.rows); }, style,
      false);
  const Assessment& sample = parts.front().second;
  add_row(
      table, parts, sample.loss_is_scaled ? "loss, of scaled numbers" : "loss",
      [](const Assessment& a) { return a.loss; }, style);
  if (sample.classes) {
    add_row(
        table, parts, "accuracy", [](const Assessment& a) { return a.classes->accuracy; }, style);
    if (sample.classes->classes.size() > 2) {
      add_row(
          table, parts, fmt::format("true class among the {} likeliest", sample.classes->top),
          [](const Assessment& a) { return a.classes->top_accuracy; }, style);
    }
    if (sample.classes->grouping) {
      add_row(
          table, parts, "accuracy as groups without names",
          [](const Assessment& a) { return a.classes->grouping->accuracy; }, style);
    }
    add_row(
        table, parts, "loss of a uniform guess",
        [](const Assessment& a) { return a.classes->uniform_guess_loss; }, style, false);
    add_row(
        table, parts, "accuracy of a uniform guess",
        [](const Assessment& a) { return a.classes->uniform_guess_accuracy; }, style, false);
    add_row(
        table, parts, fmt::format("accuracy of always naming '{}'", sample.classes->commonest),
        [&](const Assessment& a) {
          const auto named =
              std::ranges::find(a.classes->classes, sample.classes->commonest, &ClassFigures::name);
          double counted = 0.0;
          for (const ClassFigures& each : a.classes->classes)
            counted += each.rows;
          return named->rows / counted;
        },
        style, false);
  }
  const std::size_t targets = sample.numbers.size();
  for (std::size_t at = 0; at < targets; ++at) {
    const NumberJudgement& judged = sample.numbers[at];
    const auto titled = [&](const std::string& name) {
      return targets == 1 ? name : fmt::format("{}: {}", judged.target, name);
    };
    const auto in_unit = [&](const std::string& name, const char* power) {
      return judged.unit.empty() ? titled(name)
                                 : fmt::format("{} ({}{})", titled(name), judged.unit, power);
    };
    add_row(
        table, parts, in_unit("mean squared error", "²"),
        [at](const Assessment& a) { return a.numbers[at].mean_squared; }, style);
    add_row(
        table, parts, in_unit("root mean squared error", ""),
        [at](const Assessment& a) { return std::sqrt(a.numbers[at].mean_squared); }, style);
    add_row(
        table, parts, in_unit("mean absolute error", ""),
        [at](const Assessment& a) { return a.numbers[at].mean_absolute; }, style);
    add_row(
        table, parts, titled("R²"), [at](const Assessment& a) { return a.numbers[at].r_squared; },
        style);
    add_row(
        table, parts, in_unit("mean squared error of predicting the mean", "²"),
        [at](const Assessment& a) { return a.numbers[at].mean_guess_squared; }, style, false);
  }
  for (const Reference& reference : references) {
    add_row(
        table, parts, fmt::format("{} of {}", sample.classes ? "accuracy" : "R²", reference.name),
        [&](const Assessment&) { return reference.figure; }, style, false);
  }
  std::string text = table.text(style);
  if (parts.size() > 1)
    text += fmt::format("gap = {} − {}\n", parts.back().first, parts.front().first);
  return text;
}

std::string show_classes(const ClassJudgement& judgement, const TerminalStyle& style) {
  constexpr std::size_t longest_name = 14;
  std::vector<TextTable::Heading> headings = {{"true class", Set::left}};
  constexpr std::size_t most_columns = 10;
  const std::size_t shown = std::min(judgement.classes.size(), most_columns);
  for (std::size_t of = 0; of < shown; ++of)
    headings.push_back({cut_to(judgement.classes[of].name, longest_name / (shown > 5 ? 2 : 1))});
  TextTable table(headings);
  for (std::size_t truth = 0; truth < judgement.classes.size(); ++truth) {
    std::vector<TextTable::Entry> row = {judgement.classes[truth].name};
    for (std::size_t answer = 0; answer < shown; ++answer) {
      const double count = judgement.confusion.at(
          {static_cast<std::int64_t>(truth), static_cast<std::int64_t>(answer)});
      const std::string_view ink = truth == answer ? ink::positive : ink::negative;
      row.emplace_back(count == 0.0 ? "·" : format_number(count), count == 0.0 ? ink::faint : ink);
    }
    table.add(std::move(row));
  }
  std::string text = "Rows by true class (down) and by answer (across)\n\n" + table.text(style);
  if (shown < judgement.classes.size())
    text += fmt::format("({} of {} answers shown)\n", shown, judgement.classes.size());
  TextTable figures(
      {{"class", Set::left}, {"rows"}, {"answers"}, {"precision"}, {"recall"}, {"F1"}});
  for (const ClassFigures& each : judgement.classes) {
    figures.add({each.name, fmt::format("{}", each.rows), fmt::format("{}", each.answers),
                 each.answers == 0 ? "–" : format_number(each.precision, 3),
                 each.rows == 0 ? "–" : format_number(each.recall, 3),
                 each.rows + each.answers == 0 ? "–" : format_number(each.f1, 3)});
  }
  return text + "\n" + figures.text(style);
}

namespace {

/// Numbers are set right, names left.
TextTable::Heading heading_of_records(const Answers& answers) {
  return {"record", answers.names.empty() ? Set::right : Set::left};
}

/// The number of a class for a row.
std::string written(const Answers& answers, std::int64_t row, std::size_t of,
                    const TerminalStyle& style) {
  const double number = answers.probabilities.at({row, static_cast<std::int64_t>(of)});
  return answers.kind == Outputs::levels ? format_number(number, style.digits) : share(number);
}

/// The first columns of a table of answers with classes: record, answer and, where it is known, the
/// truth with a mark where the answer is another.
std::vector<TextTable::Heading> first_headings(const Model& model, const Answers& answers,
                                               const AnswersView& view) {
  std::vector<TextTable::Heading> headings = {heading_of_records(answers),
                                              {model.target_names.front(), Set::left}};
  if (!view.truth.empty()) headings.insert(headings.end(), {{"truth", Set::left}, {""}});
  return headings;
}

std::vector<TextTable::Entry> first_cells(const Model& model, const Answers& answers,
                                          std::int64_t row, const AnswersView& view) {
  const auto at = static_cast<std::size_t>(row);
  const auto likeliest = static_cast<std::size_t>(answers.classes.at_offset(row));
  std::vector<TextTable::Entry> cells = {answers.name_of(row),
                                         cut_to(model.class_names[likeliest], 24)};
  if (view.truth.empty()) return cells;
  cells.emplace_back(cut_to(view.truth[at], 24));
  const bool is_wrong = !view.truth[at].empty() && view.truth[at] != model.class_names[likeliest];
  cells.emplace_back(is_wrong ? "✗" : "", ink::negative);
  return cells;
}

/// A record in words, where there are any.
void add_words(std::vector<TextTable::Entry>& cells, std::int64_t row, const AnswersView& view) {
  if (!view.records.empty()) cells.emplace_back(view.records[static_cast<std::size_t>(row)]);
}

/// Record and answer alone, with its share.
std::string brief_answers(const Model& model, const Answers& answers, const TerminalStyle& style,
                          const AnswersView& view) {
  std::vector<TextTable::Heading> headings = first_headings(model, answers, view);
  headings.push_back({answers.kind == Outputs::levels ? "level" : "share"});
  TextTable table(headings);
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (!answers.has_answer(row)) {
      table.add({{answers.name_of(row), std::string(no_answer)}});
      continue;
    }
    std::vector<TextTable::Entry> cells = first_cells(model, answers, row, view);
    cells.emplace_back(
        written(answers, row, static_cast<std::size_t>(answers.classes.at_offset(row)), style));
    table.add(std::move(cells));
  }
  return table.text(style);
}

/// A column for each class.
std::string answers_by_class(const Model& model, const Answers& answers, const TerminalStyle& style,
                             const AnswersView& view) {
  std::vector<TextTable::Heading> headings = first_headings(model, answers, view);
  for (const std::string& name : model.class_names)
    headings.push_back({cut_to(name, 12)});
  if (!view.records.empty()) headings.push_back({"", Set::left});
  TextTable table(headings);
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (!answers.has_answer(row)) {
      table.add({{answers.name_of(row), std::string(no_answer)}});
      continue;
    }
    const auto likeliest = static_cast<std::size_t>(answers.classes.at_offset(row));
    std::vector<TextTable::Entry> cells = first_cells(model, answers, row, view);
    for (std::size_t of = 0; of < model.class_names.size(); ++of)
      cells.emplace_back(written(answers, row, of, style),
                         of == likeliest ? ink::positive : std::string_view());
    add_words(cells, row, view);
    table.add(std::move(cells));
  }
  return table.text(style);
}

/// The likeliest classes of each row, where there are too many for a column each.
std::string first_answers(const Model& model, const Answers& answers, const TerminalStyle& style,
                          const AnswersView& view) {
  const char* const number = answers.kind == Outputs::levels ? "level" : "share";
  std::vector<TextTable::Heading> headings = first_headings(model, answers, view);
  headings.insert(headings.end(),
                  {{number}, {"then", Set::left}, {number}, {"then", Set::left}, {number}});
  if (!view.records.empty()) headings.push_back({"", Set::left});
  TextTable table(headings);
  constexpr std::size_t places = 3;
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (!answers.has_answer(row)) {
      table.add({{answers.name_of(row), std::string(no_answer)}});
      continue;
    }
    const std::vector<std::size_t> classes = by_likelihood(answers, row);
    std::vector<TextTable::Entry> cells = first_cells(model, answers, row, view);
    for (std::size_t place = 0; place < places; ++place) {
      const std::size_t of = classes[place];
      if (place > 0) cells.emplace_back(cut_to(model.class_names[of], 14));
      cells.emplace_back(written(answers, row, of, style),
                         place == 0 ? ink::positive : std::string_view());
    }
    add_words(cells, row, view);
    table.add(std::move(cells));
  }
  return table.text(style);
}

/// How often each class is the answer, the most frequent first, and how many are right.
std::string tally_of_classes(const Model& model, const AnswersTally& tally,
                             const TerminalStyle& style) {
  std::vector<std::string> counts;
  for (const auto& [count, of] : tally.by_class)
    counts.push_back(fmt::format("{} {}", model.class_names[of], count));
  std::string text =
      paragraph(harmless(fmt::format("answers: {}", fmt::join(counts, ", "))), style.width);
  if (tally.with_truth > 0) {
    text += fmt::format(
        "right: {} of {}, {}\n", tally.right, tally.with_truth,
        share(static_cast<double>(tally.right) / static_cast<double>(tally.with_truth)));
  }
  return text;
}

/// Numbers that are answered, each with the truth and how far it is off where that is known.
std::string answers_of_numbers(const Model& model, const Answers& answers,
                               const TerminalStyle& style, const AnswersView& view) {
  const auto targets = std::ssize(model.target_names);
  std::vector<TextTable::Heading> headings = {heading_of_records(answers)};
  for (const std::string& target : model.target_names) {
    headings.push_back({target});
    if (!view.truth.empty()) headings.insert(headings.end(), {{"truth"}, {"off by"}});
  }
  if (!view.records.empty()) headings.push_back({"", Set::left});
  TextTable table(headings);
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    std::vector<TextTable::Entry> cells = {answers.name_of(row)};
    for (std::int64_t target = 0; target < targets; ++target) {
      const double answer = answers.numbers.at({row, target});
      cells.emplace_back(format_number(answer, style.digits));
      if (view.truth.empty()) continue;
      const std::string& text = view.truth[static_cast<std::size_t>(row * targets + target)];
      const std::optional<double> truth = parse_number(text);
      cells.emplace_back(truth ? format_number(*truth, style.digits) : text);
      cells.emplace_back(truth ? format_number(answer - *truth, style.digits) : "");
    }
    add_words(cells, row, view);
    table.add(std::move(cells));
  }
  return table.text(style);
}

}  // namespace

AnswersTally tally_of(const Model& model, const Answers& answers,
                      std::span<const std::string> truth) {
  AnswersTally tally;
  std::vector<std::int64_t> counts(model.class_names.size());
  if (counts.empty()) return tally;
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (!answers.has_answer(row)) continue;
    const auto answer = static_cast<std::size_t>(answers.classes.at_offset(row));
    ++counts[answer];
    const auto at = static_cast<std::size_t>(row);
    if (at >= truth.size() || truth[at].empty()) continue;
    ++tally.with_truth;
    tally.right += truth[at] == model.class_names[answer] ? 1 : 0;
  }
  for (std::size_t of = 0; of < counts.size(); ++of) {
    if (counts[of] > 0) tally.by_class.emplace_back(counts[of], of);
  }
  std::ranges::stable_sort(tally.by_class, std::ranges::greater(),
                           &std::pair<std::int64_t, std::size_t>::first);
  return tally;
}

std::string show_answers(const Model& model, const Answers& answers, const TerminalStyle& style,
                         const AnswersView& view) {
  const std::int64_t rows = answers.scores.shape()[0];
  if (model.class_names.empty()) return answers_of_numbers(model, answers, style, view);
  constexpr std::int64_t most_drawn = 5;
  const bool are_drawn = answers.kind != Outputs::levels && rows <= most_drawn;
  if (are_drawn && view.truth.empty() && !view.brief) {
    std::string text;
    for (std::int64_t row = 0; row < rows; ++row)
      text += (row == 0 ? "" : "\n") + bars_of(model, answers, row, style, view);
    return text;
  }
  constexpr std::size_t most_classes = 6;
  const std::string table = view.brief ? brief_answers(model, answers, style, view)
                            : model.class_names.size() > most_classes
                                ? first_answers(model, answers, style, view)
                                : answers_by_class(model, answers, style, view);
  const AnswersTally tally = tally_of(model, answers, view.truth);
  return rows > 1 ? table + tally_of_classes(model, tally, style) : table;
}

std::string show_learnt(const Model& model, const std::optional<LinearForm>& law,
                        const TerminalStyle& style) {
  const AxisNames names{.features = feature_names_of(model.columns),
                        .targets = model.target_names,
                        .classes = model.class_names};
  std::string text;
  for (const Weight& weight : model.network.weights()) {
    text += fmt::format("{} {}\n{}\n", harmless(weight.name), to_string(weight.value.shape()),
                        show_tensor(weight.value, style, names));
  }
  const std::vector<LinearForm> forms = raw_forms(model);
  for (const LinearForm& form : forms)
    text += paragraph(harmless(form.text(style.digits)), style.width);
  if (!forms.empty() && law) {
    text +=
        paragraph(fmt::format("The law of the data, but for noise: {}", law->text(style.digits)),
                  style.width);
  }
  return text;
}

std::string show_influences(const std::vector<Influence>& influences, const std::string& swept,
                            const Model& model, const TerminalStyle& style) {
  const bool has_classes = !model.class_names.empty();
  std::vector<TextTable::Heading> headings = {
      {"feature", Set::left}, {"value"}, {fmt::format("{} per 1 more", swept)}};
  if (has_classes) headings.insert(headings.end(), {{"answer changes at"}, {"which", Set::left}});
  TextTable table(headings);
  const std::vector<std::string> names = feature_names_of(model.columns);
  for (std::size_t at = 0; at < influences.size(); ++at) {
    const Influence& influence = influences[at];
    std::vector<TextTable::Entry> row = {names[at],
                                         format_number(influence.value, style.digits),
                                         {format_number(influence.slope, style.digits),
                                          influence.slope < 0.0 ? ink::negative : ink::positive}};
    if (has_classes) {
      row.emplace_back(influence.turn ? format_number(*influence.turn, style.digits) : "none near");
      row.emplace_back(
          influence.becomes ? model.class_names[static_cast<std::size_t>(*influence.becomes)] : "");
    }
    table.add(std::move(row));
  }
  return table.text(style) +
         (has_classes ? "Each feature is varied alone; the others stay fixed.\n" : "");
}

std::string to_string(const Assessment& assessment) {
  std::string text = show_figures({{"", assessment}}, {});
  if (assessment.classes) text += "\n" + show_classes(*assessment.classes, {});
  return text;
}

std::string to_string(const ClassJudgement& judgement) {
  return fmt::format("accuracy {}\n\n{}", format_number(judgement.accuracy),
                     show_classes(judgement, {}));
}

}  // namespace lattice
