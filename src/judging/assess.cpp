#include "lattice/judging/assess.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "lattice/judging/answers.hpp"
#include "lattice/judging/figures.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

double ratio(double part, double whole) {
  return whole == 0.0 ? 0.0 : part / whole;
}

std::vector<ClassFigures> by_class(const Tensor& confusion, const std::vector<std::string>& names) {
  std::vector<ClassFigures> figures;
  const auto count = std::ssize(names);
  for (std::int64_t of = 0; of < count; ++of) {
    double rows = 0.0;
    double answers = 0.0;
    for (std::int64_t other = 0; other < count; ++other) {
      rows += confusion.at({of, other});
      answers += confusion.at({other, of});
    }
    const double right = confusion.at({of, of});
    figures.push_back({.name = names[static_cast<std::size_t>(of)],
                       .rows = rows,
                       .answers = answers,
                       .precision = ratio(right, answers),
                       .recall = ratio(right, rows),
                       .f1 = ratio(2.0 * right, rows + answers)});
  }
  return figures;
}

/// What a confusion matrix tells.
ClassJudgement judgement_of(const Tensor& confusion, const std::vector<std::string>& names) {
  ClassJudgement judgement{.confusion = confusion, .classes = by_class(confusion, names)};
  double rows = 0.0;
  double right = 0.0;
  for (std::int64_t of = 0; of < std::ssize(names); ++of) {
    rows += judgement.classes[static_cast<std::size_t>(of)].rows;
    right += confusion.at({of, of});
  }
  judgement.accuracy = ratio(right, rows);
  judgement.uniform_guess_accuracy = 1.0 / static_cast<double>(names.size());
  const auto commonest = std::ranges::max_element(judgement.classes, {}, &ClassFigures::rows);
  judgement.commonest = commonest->name;
  judgement.commonest_accuracy = ratio(commonest->rows, rows);
  return judgement;
}

/// The loss of as much for every class: the same score, or the same level.
double uniform_guess_loss(const Loss& loss, Outputs kind, std::int64_t classes,
                          std::int64_t outputs) {
  const double level = outputs == 1 ? 0.5 : 1.0 / static_cast<double>(classes);
  const Tensor even = constant(Shape{classes, outputs}, kind == Outputs::scores ? 0.0 : level);
  std::vector<double> truth(static_cast<std::size_t>(classes));
  std::iota(truth.begin(), truth.end(), 0.0);
  return mean(loss_of_rows(loss, even, tensor(Shape{classes}, truth))).number();
}

/// Calls `look` for each row that a batch is about, with its place in the tensors and how much it
/// counts.
template <class Look>
void each_row_of(const Batch& batch, const Look& look) {
  const Tensor* const numbers = find_side(batch.side, row_weights_name);
  for (std::size_t at = 0; at < batch.rows.size(); ++at) {
    const std::int64_t place = batch.place_of(at);
    look(place, numbers == nullptr ? 1.0 : numbers->at_offset(place));
  }
}

/// The loss of rows and how many answers are right.
class FiguresSoFar {
 public:
  FiguresSoFar(const Loss& loss, Outputs kind) : loss_(loss), kind_(kind) {}

  void add(const Batch& batch, const Tensor& outputs) {
    const Tensor losses = loss_of_rows(loss_, outputs, batch.truth());
    each_row_of(batch, [&](std::int64_t place, double row_weights) {
      total_.add(losses.at_offset(place), row_weights);
    });
    if (batch.classes.empty()) return;
    const std::vector<bool> right = are_right(answers_of(outputs, kind_), batch.classes);
    each_row_of(batch, [&](std::int64_t place, double row_weights) {
      right_.add(right[static_cast<std::size_t>(place)] ? 1.0 : 0.0, row_weights);
    });
  }

  /// @throws NumberError when no row counts: a mean over nothing is no number.
  [[nodiscard]] Figures figures() const {
    if (total_.counted() == 0.0) {
      throw NumberError({.what = "no row of this part counts",
                         .expected = "a number above 0 for one row or more of each part",
                         .found = "0 for every row",
                         .remedy = "another split, or other weights"});
    }
    Figures figures{.loss = total_.mean()};
    if (right_.counted() > 0.0) figures.accuracy = right_.mean();
    return figures;
  }

 private:
  Loss loss_;
  Outputs kind_;
  MeanOfRows total_;
  MeanOfRows right_;
};

void count_answers(Tensor& counts, const Batch& batch, const Tensor& outputs, Outputs kind) {
  add_to_confusion(counts, answers_of(outputs, kind), batch.classes,
                   find_side(batch.side, row_weights_name));
}

/// What else there is to say about how classes are told apart.
class ClassesSoFar {
 public:
  ClassesSoFar(Outputs kind, const Dataset& data, std::int64_t top)
      : kind_(kind),
        top_(std::min(top, data.class_count())),
        confusion_(confusion({}, {}, data.class_count())) {
    if (top >= 1) return;
    throw SettingError({.what = fmt::format("top-{} accuracy is not possible", top),
                        .expected = "1 or more",
                        .found = fmt::format("{}", top)});
  }

  void add(const Batch& batch, const Tensor& outputs) {
    count_answers(confusion_, batch, outputs, kind_);
    const std::vector<bool> among_top =
        are_among_top(probabilities_of(outputs, kind_), batch.classes, top_);
    each_row_of(batch, [&](std::int64_t place, double row_weights) {
      among_top_.add(among_top[static_cast<std::size_t>(place)] ? 1.0 : 0.0, row_weights);
    });
  }

  [[nodiscard]] ClassJudgement judgement(double accuracy, const Loss& loss, const Dataset& data,
                                         std::int64_t outputs, bool as_groups) const {
    ClassJudgement judgement = judgement_of(confusion_, data.all_class_names());
    judgement.accuracy = accuracy;
    judgement.top = top_;
    judgement.top_accuracy = among_top_.mean();
    if (as_groups) {
      judgement.grouping.emplace().matching = best_matching(confusion_);
      judgement.grouping->accuracy = matched_accuracy(confusion_, judgement.grouping->matching);
    }
    const std::int64_t count = std::ssize(judgement.classes);
    judgement.uniform_guess_loss = uniform_guess_loss(loss, kind_, count, outputs);
    return judgement;
  }

 private:
  Outputs kind_;
  std::int64_t top_;
  Tensor confusion_;
  MeanOfRows among_top_;
};

/// How near the numbers of targets are met, in their units.
class NumbersSoFar {
 public:
  NumbersSoFar(const RowSet& rows)
      : data_(&rows.data()), targets_(static_cast<std::size_t>(data_->targets.shape()[1])) {
    for (const std::int64_t row : rows.rows()) {
      for (std::size_t of = 0; of < targets_.size(); ++of)
        targets_[of].truth.add(truth(row, of), data_->row_weight(row));
    }
  }

  void add(const Batch& batch, const Tensor& outputs) {
    const Tensor answers = data_->target_preparation.raw(outputs);
    for (std::size_t at = 0; at < batch.rows.size(); ++at) {
      const std::int64_t row = batch.rows[at];
      const double row_weight = data_->row_weight(row);
      for (std::size_t of = 0; of < targets_.size(); ++of) {
        Target& target = targets_[of];
        const double is = truth(row, of);
        const double apart = answers.at({batch.place_of(at), static_cast<std::int64_t>(of)}) - is;
        const double from_mean = is - target.truth.mean();
        target.squared.add(apart * apart, row_weight);
        target.absolute.add(std::abs(apart), row_weight);
        target.varied.add(from_mean * from_mean, row_weight);
      }
    }
  }

  [[nodiscard]] std::vector<NumberJudgement> judgements() const {
    std::vector<NumberJudgement> all;
    for (std::size_t of = 0; of < targets_.size(); ++of) {
      const Target& target = targets_[of];
      NumberJudgement judgement{.target = data_->target_name(static_cast<std::int64_t>(of)),
                                .mean_squared = target.squared.mean(),
                                .mean_absolute = target.absolute.mean(),
                                .mean_guess_squared = target.varied.mean()};
      if (of < data_->target_units.size()) judgement.unit = data_->target_units[of];
      // Where the truth never changes there is no variance to explain.
      const bool varies = target.varied.sum() > 0.0;
      judgement.r_squared = varies ? 1.0 - target.squared.sum() / target.varied.sum()
                                   : (target.squared.sum() == 0.0 ? 1.0 : 0.0);
      all.push_back(std::move(judgement));
    }
    return all;
  }

 private:
  struct Target {
    MeanOfRows truth;
    MeanOfRows squared;
    MeanOfRows absolute;
    MeanOfRows varied;  ///< from the mean
  };

  [[nodiscard]] double truth(std::int64_t row, std::size_t target) const {
    return data_->targets.at({row, static_cast<std::int64_t>(target)});
  }

  const Dataset* data_;
  std::vector<Target> targets_;
};

}  // namespace

double Assessment::figure() const {
  if (classes) return classes->accuracy;
  double sum = 0.0;
  for (const NumberJudgement& judgement : numbers)
    sum += judgement.r_squared;
  return sum / static_cast<double>(numbers.size());
}

ClassJudgement judge(const Tensor& answers, const Tensor& classes, std::vector<std::string> names) {
  const bool are_scores = answers.shape().rank() == 2;
  const Tensor chosen = are_scores ? argmax(answers, 1) : answers;
  // Both are checked as the classes of a dataset are.
  const DatasetNames called{.classes = std::move(names)};
  const auto as_dataset = [&](const Tensor& numbers) {
    return dataset_of_classes(chosen.reshaped({chosen.count(), 1}), numbers, called);
  };
  const Dataset answered = as_dataset(chosen);
  const Dataset data = as_dataset(classes);
  const std::int64_t columns = are_scores ? answers.shape()[1] : 0;
  const std::int64_t count = std::max({answered.class_count(), data.class_count(), columns});
  if (!called.classes.empty() && count > std::ssize(called.classes)) {
    throw NumberError({.what = "there are more numbers for each row than names",
                       .expected = fmt::format("{}, one for each class", called.classes.size()),
                       .found = fmt::format("{}", count)});
  }
  std::vector<std::string> all_names;
  for (std::int64_t number = 0; number < count; ++number)
    all_names.push_back(data.class_name(number));
  ClassJudgement judgement = judgement_of(confusion(chosen, classes, count), all_names);
  judgement.uniform_guess_loss = std::log(static_cast<double>(count));
  judgement.top = are_scores ? std::min<std::int64_t>(2, columns) : 1;
  judgement.top_accuracy =
      are_scores ? top_accuracy(answers, classes, judgement.top) : judgement.accuracy;
  return judgement;
}

void each_chunk(const Network& network, const Loss& loss, const RowSet& rows, std::int64_t chunk,
                const std::function<void(const Batch& batch, const Tensor& outputs)>& look) {
  if (chunk < 1) {
    throw SettingError({.what = "rows cannot be assessed in chunks of this size",
                        .expected = "1 or more",
                        .found = fmt::format("{}", chunk)});
  }
  // Of a deep network fewer, so that memory does not grow with its depth.
  chunk = chunk_of(std::max(network.plan().written(), network.example().count()), chunk);
  // What belongs to all rows at once may mix them.
  if (!std::ranges::all_of(rows.data().side, &SideInput::by_row)) chunk = rows.count();
  for (std::int64_t from = 0; from < rows.count(); from += chunk) {
    const Batch batch = rows.from(from, std::min(chunk, rows.count() - from));
    look(batch, outputs_for(network, loss, batch));
  }
}

Tensor outputs_for(const Network& network, const Loss& loss, const Batch& batch) {
  const std::int64_t count = batch.features.shape()[0];
  const bool may_be_filled = std::ranges::all_of(batch.side, &SideInput::by_row);
  const std::int64_t filled = may_be_filled ? (count + 7) / 8 * 8 : count;
  std::vector<std::int64_t> places(static_cast<std::size_t>(filled), count - 1);
  std::iota(places.begin(), places.begin() + count, std::int64_t{0});
  Worksheet sheet;
  for (const SideInput& side : batch.side) {
    if (!side.by_row) sheet.given(side.name, side.value);
  }
  const bool is_whole = std::ssize(places) == count;
  const Line x = sheet.given("x", is_whole ? batch.features : batch.features.rows(places));
  const Tensor outputs = write_scores(sheet, network, loss, x).value();
  places.resize(static_cast<std::size_t>(count));
  return is_whole ? outputs : outputs.rows(places);
}

Tensor outputs_for(const Network& network, const Loss& loss, const RowSet& rows,
                   std::int64_t chunk) {
  Tensor all;
  std::int64_t done = 0;
  each_chunk(network, loss, rows, chunk, [&](const Batch& batch, const Tensor& of_batch) {
    const Tensor outputs = batch.of_rows(of_batch);
    const std::int64_t count = outputs.shape()[0];
    if (count == rows.count()) {
      all = outputs;
      return;
    }
    if (all.empty()) {
      all = Tensor::unfilled(outputs.shape().with_extent(0, rows.count()), outputs.precision());
    }
    visit(all.precision(), [&]<class T>(T) {
      std::copy_n(outputs.data<T>(), outputs.count(),
                  all.writable<T>() + done * (outputs.count() / count));
    });
    done += count;
  });
  return all;
}

std::vector<JudgedRow> rows_got_wrong(const Network& network, const Loss& loss, const RowSet& rows,
                                      std::int64_t most) {
  std::vector<JudgedRow> judged;
  const Outputs kind = outputs_of(network, loss);
  each_chunk(network, loss, rows, usual_chunk, [&](const Batch& batch, const Tensor& outputs) {
    const Tensor losses = loss_of_rows(loss, outputs, batch.truth());
    const Tensor answers = batch.classes.empty() ? Tensor() : answers_of(outputs, kind);
    for (std::size_t at = 0; at < batch.rows.size(); ++at) {
      const std::int64_t place = batch.place_of(at);
      JudgedRow row{.row = batch.rows[at], .loss = losses.at_offset(place)};
      if (!answers.empty()) {
        if (answers.at_offset(place) == batch.classes.at_offset(place)) continue;
        row.answer = static_cast<std::int64_t>(answers.at_offset(place));
      }
      judged.push_back(row);
    }
  });
  std::ranges::stable_sort(judged, std::ranges::greater(), &JudgedRow::loss);
  judged.resize(std::min(judged.size(), static_cast<std::size_t>(most)));
  return judged;
}

Figures figures_of(const Network& network, const Loss& loss, const RowSet& rows, std::int64_t chunk,
                   bool with_confusion) {
  const Outputs kind = outputs_of(network, loss);
  FiguresSoFar figures(loss, kind);
  std::optional<Tensor> counts;
  if (with_confusion && rows.data().has_classes())
    counts = confusion({}, {}, rows.data().class_count());
  each_chunk(network, loss, rows, chunk, [&](const Batch& batch, const Tensor& outputs) {
    figures.add(batch, outputs);
    if (counts) count_answers(*counts, batch, outputs, kind);
  });
  Figures all = figures.figures();
  all.confusion = std::move(counts);
  return all;
}

Assessment assess(const Network& network, const RowSet& rows, const AssessSettings& settings) {
  const Dataset& data = rows.data();
  const Loss loss = settings.loss.value_or(usual_loss(network, data));
  check_fits(network, loss, rows);
  const Outputs kind = outputs_of(network, loss);
  FiguresSoFar figures(loss, kind);
  std::optional<ClassesSoFar> classes;
  std::optional<NumbersSoFar> numbers;
  if (data.has_classes()) {
    classes.emplace(kind, data, settings.top);
  } else {
    numbers.emplace(rows);
  }
  each_chunk(network, loss, rows, settings.chunk, [&](const Batch& batch, const Tensor& outputs) {
    figures.add(batch, outputs);
    if (classes) classes->add(batch, outputs);
    if (numbers) numbers->add(batch, outputs);
  });
  Assessment assessment{.rows = rows.count(),
                        .loss = figures.figures().loss,
                        .loss_is_scaled = !data.target_preparation.empty()};
  if (classes) {
    assessment.classes = classes->judgement(figures.figures().accuracy.value_or(0.0), loss, data,
                                            network.outputs().count(), settings.as_groups);
  }
  if (numbers) assessment.numbers = numbers->judgements();
  return assessment;
}

}  // namespace lattice
