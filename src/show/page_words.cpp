#include "show/page_words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>

#include "lattice/network/given_lines.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/explain.hpp"
#include "show/slips.hpp"

namespace lattice {
namespace {

constexpr auto words_of_work = std::to_array<PageWord>({
    {"forward", "Forward"},
    {"loss", "Loss"},
    {"reverse", "Reverse"},
    {"update", "Update"},
    {"go_to_stage", "Go to it ({key})"},
    {"step", "step {step}"},
    {"answer", "answer {number}"},
    {"at_entry", "{stage}, line {line}: {title}"},
    {"swept", "How {result} changes with each number of line {line}."},
    {"updated", "{rule}. With all updates made, {loss} goes from {before} to {after}."},
    {"passed_on", "passed on to {line}: "},
    {"local_matrix", "Local derivative, a matrix to multiply by: "},
    {"local_window", "Local derivative, to multiply by under each place of the window: "},
    {"local_across", "Local derivative, a matrix to multiply by:"},
    {"local_across_each",
     "Local derivative, a matrix to multiply by for each {each}, the first of them:"},
    {"local_everywhere", "Local derivative: {number} everywhere."},
    {"local_number", "Local derivative: {number}."},
    {"local_passed_on", "Local derivative: what is passed on, since 1 arrives."},
    {"local_numbers", "Local derivative, number by number:"},
    {"local_of", "the local derivative of {name}"},
    {"one_share", "One of several contributions that add up to {gradient}."},
    {"example", "example {number}: "},
    {"the_run", "The whole run"},
    {"the_run_unchanged", "The whole run, without the changes"},
    {"result_by", "{result} by {across}"},
    // Tables.
    {"bias", "bias"},
    {"residue", residue_in_text},
    {"is_residue", "what rounding leaves where terms cancel"},
    {"share", "a contribution to {name}"},
    {"numbers", "numbers"},
    {"pictures", "pictures"},
    {"rows", "rows"},
    {"columns", "columns"},
    {"tables", "tables"},
    {"earlier", "earlier {what}"},
    {"later", "later {what}"},
    {"window", "{what} {first} to {last} of {count}"},
    // The network.
    {"of_values", "values"},
    {"of_gradients", "gradients"},
    {"of_new_weights", "values, with the new weights"},
    {"network_of", "{what} of {role} {example}:"},
    {"channel_of", "{name}, channel {channel}"},
    {"mean_of_units", "{name}, units {first} to {last}: mean {mean}"},
    {"mean_of_weights", "{count} numbers from {name} on: mean {mean}"},
    {"grouped", "Cells with two numbers stand for that many units, and show their mean."},
    // What is changed.
    {"settings", "Settings:"},
    {"change_it", "Change it:"},
    {"change_of", "change {number}"},
    {"drag", "drag {number}"},
    {"put_back", "put back"},
    {"put_back_of", "put {number} back"},
    {"put_back_all", "put all back"},
    {"was", "was {before}, {by}"},
    {"from_to", "{number}: {before} → {now}"},
    {"changed_most", "changed most:"},
    {"is_as_it_was", "as it was"},
    {"is_calculated", "It is calculated: change what it is made from."},
    {"blanks_first", "It can be changed once every blank is right or shown."},
    {"is_written_for", "It cannot be changed here: formulas are written for it."},
    {"is_left_out",
     "It cannot be changed here: in so large a matrix formulas leave out what is 0."},
    {"takes_long", "Working everything again takes {seconds} s: it is done when you let go."},
    {"takes_long_with",
     "Working everything again takes {seconds} s: it is done when you let go. With --batch {rows} "
     "it would be done at once."},
    {"clipped", "gradients clipped: each was multiplied by {factor}"},
    {"not_finite", "It is no finite number any more. Try a smaller rate."},
    {"rose", "It rose: a step in this direction was too long. Try a smaller rate."},
    {"stayed", "It stayed the same."},
    {"show_beside", "Show beside it:"},
    {"nothing_beside", "nothing"},
    {"before_changes", "before the changes"},
    {"beside", "{name}, {state}"},
    {"difference_of", "difference in {name}"},
    {"now", "now"},
    {"predict_first", "predict first"},
    {"predict_help", "Ask which way the result will go before a change is shown"},
    {"predict", "You change {number} from {before} to {now}. Will {result} go up or down?"},
    {"predict_up", "▲ up"},
    {"predict_down", "▼ down"},
    {"predict_same", "= stay the same"},
    {"predict_show", "show me"},
    {"went_up", "{number} went up, from {before} to {now}."},
    {"went_down", "{number} went down, from {before} to {now}."},
    {"went_same", "{number} stayed the same, {now}."},
    {"went_nowhere", "{number} is no number any more."},
    {"predicted", "Yes: {went}"},
    {"not_predicted", "No: {went}"},
    {"score", "{right} of {count} predicted"},
    {"save_changes", "save changes"},
    {"load_changes", "load changes"},
    {"no_changes_in", "There are no changes in {file}."},
    {"loaded", "{count} of the {of} changes in {file} fit this page."},
    {"plane", "What is answered where, before the update of {step}"},
    {"plane_marks", "large: the rows of this minibatch"},
    {"plane_before", "dashed: before the changes"},
    {"take_step", "+ step {step}"},
    {"take_step_help", "Make the update, and work the next minibatch with the new weights"},
    // Why.
    {"is_blank", "{number} is left blank"},
    {"is", "{number} is {value}"},
    {"way_here", "The way here"},
    {"left_blank", "Left blank: work it out, type it in its place, and press Enter."},
    {"fewer_terms", "fewer terms"},
    {"every_term", "every term"},
    {"with", "with\u00a0"},
    {"if", "\u00a0if\u00a0"},
    {"else", "\u00a0else\u00a0"},
    {"made_from", "made from"},
    {"and_more", "and {count} more"},
    {"folded", "[{count} more]"},
    {"folded_sum", "[{count} more: {sum}]"},
    {"of_class", ": class {name}"},
    {"turned", "{name}, turned by half"},
    {"products", "products"},
    {"together", "together {sum}"},
    {"one_more_picture", "and 1 more picture in the sum"},
    {"more_pictures", "and {count} more pictures in the sum"},
    // Terms, and how large everything is.
    {"terms_here", "Terms on this line"},
    {"terms_elsewhere", "Other terms on this page"},
    {"zoomed", "{percent} % of the usual size"},
    {"slide_on", "One line for a projector. Esc leaves it."},
    {"slide_off", "The whole page"},
    // What numbers mean.
    {"means_rise", "If {number} were {step} larger, {result} would be about {change} larger."},
    {"means_fall", "If {number} were {step} larger, {result} would be about {change} smaller."},
    {"means_nothing", "When {number} changes a little, {result} hardly changes."},
    {"raises",
     "Its gradient is negative: {result} falls as this weight rises, so the update raises it."},
    {"lowers",
     "Its gradient is positive: {result} rises with this weight, so the update lowers it."},
    // Exercises.
    {"blank", "blank {number}: {name}"},
    {"is_no_number", "{typed} is not a number"},
    {"right", "Right: {number} is {value}"},
    {"not_right_yet", "Not right yet. A hint is beside it."},
    {"shown", "shown"},
    {"exercise", "Exercise: {right} of {count} right"},
    {"exercise_variant", "Variant {variant}: {right} of {count} right"},
    {"variant_of", "{title}, variant {variant}"},
    {"not_right", "{typed} is not right."},
    {"type_it", "Type the number, and press Enter."},
    {"typed_no_number", "“{typed}” is not a number."},
    {"slip_other", another_number},
    {"save_answers", "save answers"},
    {"whose_answers", "Whose answers are these? (It may be left empty.)"},
    {"hint_formula", "Hint: its formula"},
    {"hint_numbers", "Hint: the numbers too"},
    {"show_answer", "Show the answer"},
    {"answers", "Answers"},
    {"also_needed", "What else the blanks need"},
    {"needed", "for {blank}, {number}"},
});

/// Of the page that watches a run, and what both pages say.
constexpr auto words_of_runs = std::to_array<PageWord>({
    {"minibatch", "minibatch"},
    {"running", "running"},
    {"train", "train"},
    {"validation", "validation"},
    {"rate_changed", "rate changed"},
    {"by_step", "step"},
    {"by_epoch", "epoch"},
    {"loss_by", "loss by {across}"},
    {"accuracy_by", "accuracy by {across}"},
    {"reference", "{name}: {figure}"},
    {"layer", "layer"},
    {"standard_deviation", "std dev"},
    {"gradient_norm", "∂ norm"},
    {"weight_gradient_norm", "∂ weights"},
    {"dead", "dead"},
    {"percent", "{number} %"},
    {"epoch_of", "epoch {epoch} of {epochs}"},
    {"rate", "rate {rate}"},
    {"part_loss", "{part} loss {loss}"},
    {"part_figures", "{part} loss {loss}, accuracy {accuracy}"},
    {"seconds", "{seconds} s"},
    {"through_layers", "Through the layers: epoch {epoch}"},
    {"network_then", "The network for the first row of the {part} part: epoch {epoch}"},
    {"truth_by_answer", "Truth by answer: {part} part, epoch {epoch}"},
    {"truth_by_answer_then", "Truth by answer: {moment}"},
    {"recall_by_class", "Recall by class, where the confusion matrix was recorded"},
    {"at_step", "step {step}"},
    {"at_epoch", "epoch {epoch}"},
    {"answers_where", "What it answers where: epoch {epoch}"},
    {"axes", "across {across}, up {up}"},
    {"ended", "{state} — ended: {ending}, {updates} updates"},
    {"waiting", "(waiting) {title}"},
});

void add(Json& json, std::span<const PageWord> words) {
  for (const PageWord& word : words)
    json[std::string(word.name)] = word.text;
}

}  // namespace

Json page_words() {
  Json json = Json::object();
  add(json, words_of_work);
  add(json, words_of_runs);
  for (const ShownSubject& subject : shown_subjects())
    add(json, subject.words);
  return json;
}

Json number_in_json(double number) {
  constexpr double longest = 1e15;
  const bool is_whole = number == std::trunc(number) && std::abs(number) < longest;
  if (is_whole && !std::signbit(number)) return static_cast<std::int64_t>(number);
  return std::isfinite(number) ? Json(number) : Json(format_number(number));
}

std::string note_on(const WorkTables& tables, std::size_t at, const AxisNames& names) {
  using Kind = WorkTable::Kind;
  const WorkTable& table = tables[at];
  if (table.kind == Kind::gradient)
    return "The sweep starts here: a number changes exactly as much as itself, ∂x/∂x = 1.";
  if (table.kind == Kind::setting) return "A setting of the update rule.";
  if (table.kind == Kind::remembered) return "What the rule remembered from the updates before.";
  const Line line = tables.work().sheet().line(table.line);
  if (line.kind() == Line::Kind::running)
    return "A running statistic: its start value, or its value after the last step.";
  if (line.kind() != Line::Kind::given && line.kind() != Line::Kind::asked)
    return "A weight: its start value, or its value after the last update.";
  if (line.section() == scaling_section && table.name.find("centre") != std::string::npos)
    return "Subtracted to scale its column: for standard scaling the mean over the training rows.";
  if (line.section() == scaling_section && table.name.find("divisor") != std::string::npos) {
    return "Its column is divided by it: for standard scaling the standard deviation over the "
           "training "
           "rows.";
  }
  const Batch& batch = tables.work().batch();
  const Shape& shape = table.numbers.shape();
  if (!batch.drawn.empty() && table.name == batch.augmentation->drawn_name())
    return "Drawn for row {row} in this epoch: {augmented}.";
  const bool has_rows = !batch.is_whole && !batch.rows.empty();
  const std::string from = shape.rank() > 0 && shape.role(0) == Role::node
                               ? "Given: node {node}, column "
                           : has_rows ? "Given: row {row} of the data, column "
                                      : "Given: column ";
  const bool is_truth = table.name == "y" || table.name == "y_raw";
  if (is_truth && shape.rank() == 1) return from + "{target}{class}.";
  const bool is_data = is_truth || table.name == "x" || table.name == "raw";
  if (is_data && shape.rank() > 1 && !names.of(shape.role(1), 0).empty()) return from + "{column}.";
  return fmt::format("Given: it is data, not calculated (line {}).", table.line);
}

}  // namespace lattice
