#include "show/glossary.hpp"

#include <algorithm>
#include <array>

#include "lattice/learning/work_entry.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

constexpr auto terms = std::to_array<GlossaryTerm>({
    {"line",
     "One step of the calculation, with a number and a name. A line is either given (data, "
     "weights) "
     "or calculated from earlier lines.",
     "forward, loss"},
    {"forward pass", "Working all lines from the data to the loss, in their order.",
     "forward, loss"},
    {"example",
     "One row of the data, such as one fired pot. The lines of a minibatch hold several.",
     "forward, given"},
    {"feature", "One column of the data that the network predicts from, such as the thickness.",
     "given, dense"},
    {"target", "The number that the network should predict.", "square"},
    {"class", "One of the answers that the network can choose from, such as a glaze.",
     "softmax, cross-entropy, argmax, one_hot"},
    {"scaling",
     "Features are shifted and divided so that they have similar sizes: usually mean 0 and "
     "standard "
     "deviation 1. Otherwise the feature with the largest numbers would dominate.",
     "divide, subtract"},
    {"standard deviation",
     "How far numbers typically lie from their mean: the root of the mean squared distance.",
     "divide, normalised, variance"},
    {"weight",
     "A number that training changes. Each weight tells how strongly one number counts in another.",
     "weight, dense, update"},
    {"bias", "A weight that is added to a sum, whatever the data are.", "dense, weight"},
    {"layer", "Units that are calculated together from the same numbers.", "dense"},
    {"unit", "One number that a layer calculates for each example; also called a neuron.", "dense"},
    {"dense layer",
     "Each unit adds up all numbers that come in, each times a weight of its own, and a bias. As "
     "matrices: x·W + b.",
     "dense"},
    {"matrix product",
     "Each number is a row of the first matrix times a column of the second: multiply pair by "
     "pair, "
     "then add up.",
     "dense, matmul"},
    {"transpose", "A matrix with its rows and columns exchanged, written with a raised T.",
     "reverse, transpose, permute"},
    {"activation",
     "A function that is applied to each number of a layer. Without it several layers could do no "
     "more than one.",
     "tanh, sigmoid, ReLU, leaky ReLU, softplus, ELU"},
    {"ReLU", "Positive numbers stay as they are, negative ones become 0.", "ReLU"},
    {"tanh", "A curve from −1 to 1 that is steep around 0 and flat far from it.", "tanh"},
    {"sigmoid", "A curve from 0 to 1: 1/(1 + e⁻ᶻ). It turns any number into a probability.",
     "sigmoid"},
    {"saturation", "Where an activation is flat its slope is nearly 0, and little gradient passes.",
     "tanh, sigmoid"},
    {"dead unit", "A unit that is 0 for every example. No gradient passes, so it does not train.",
     "ReLU"},
    {"logit",
     "The number of a class before it becomes a probability. It may be negative or large; only the "
     "differences between logits count.",
     "softmax, cross-entropy, log-softmax"},
    {"softmax",
     "Turns the logits of an example into probabilities: e to the power of each, divided by their "
     "sum. The largest, m, is subtracted from all first, which changes no answer and keeps the "
     "powers from overflowing.",
     "softmax, cross-entropy"},
    {"one-hot", "A row of zeros with a single 1, at the place of the true class.",
     "one_hot, cross-entropy"},
    {"argmax", "The place of the largest number: the class that is answered.", "argmax"},
    {"loss", "One number that tells how wrong the answers are. Training makes it smaller.",
     "loss, mean, cross-entropy, update"},
    {"cross-entropy",
     "The loss of an answer by classes: −log of the probability of the true class. It is 0 for "
     "certainty, and grows without limit as that probability falls to 0.",
     "cross-entropy"},
    {"squared error", "The loss of a predicted number: its distance from the target, squared.",
     "square"},
    {"accuracy", "The share of examples whose answer is the true class.", "equal, argmax"},
    {"confusion matrix", "How often each true class (row) was answered with each class (column).",
     "matmul"},
    {"gradient",
     "How the loss changes with a number: by how much it would rise if the number rose by a "
     "little, "
     "for each unit of that rise. It is written ∂, and is worked for a whole table at once.",
     "reverse, update"},
    {"reverse sweep",
     "The gradients are worked from the loss back to the weights, line by line, each from those of "
     "the lines that use it. Also called backpropagation.",
     "reverse"},
    {"chain rule",
     "If z depends on y and y on x, the slope of z with x is the slope of z with y times the slope "
     "of y with x. Along several ways the products add up.",
     "reverse"},
    {"local derivative",
     "The slope of one line alone: how it changes with a number that goes into it. The arriving "
     "gradient is multiplied by it.",
     "reverse"},
    {"L2 term",
     "A part of the loss that is the sum of the squared weights. It keeps weights small.",
     "L2 term"},
    {"minibatch", "The examples that are worked together before one update.", "forward, update"},
    {"epoch", "One pass over all training examples, minibatch after minibatch.", "update"},
    {"update", "Each weight is changed a little, against its gradient, so that the loss falls.",
     "update"},
    {"learning rate",
     "How far an update goes. Too small, and training is slow; too large, and the loss rises.",
     "update"},
    {"gradient descent", "The plainest update: new weight = weight − rate × gradient.", "descent"},
    {"momentum",
     "The update goes on in the direction of earlier ones: a velocity is kept, which decays and "
     "takes up each new gradient.",
     "momentum"},
    {"running mean",
     "A mean that follows what is new: a share of the old mean is kept, and the rest is taken from "
     "the new number.",
     "rms, adam, running statistic, normalised"},
    {"rms scaling",
     "The gradient of each weight is divided by its usual size, the root of a running mean of its "
     "square.",
     "rms"},
    {"adam",
     "An update by the running mean of the gradient, m, divided by the root of that of its square, "
     "v. Both start at 0, which m̂ and v̂ correct.",
     "adam"},
    {"epsilon", "A tiny number that keeps a divisor from being 0.", "rms, adam, normalised"},
    {"normalisation",
     "The numbers of a unit or channel are shifted and divided to mean 0 and variance 1 over the "
     "minibatch, then scaled by two weights.",
     "normalised, variance"},
    {"variance", "The mean squared distance from the mean: the standard deviation, squared.",
     "variance, normalised"},
    {"running statistic",
     "A mean or variance that is collected while training, and used in place of that of the "
     "minibatch when the network answers.",
     "running statistic"},
    {"dropout",
     "While training, randomly chosen numbers become 0 and the others grow to match, so that no "
     "unit relies on a single other one. The mask says which.",
     "dropout"},
    {"frozen", "A weight that keeps its number: updates leave it alone.", "frozen weight"},
    {"flatten", "The numbers of a picture in one long row.", "flatten"},
    {"residual", "A layer's input is added to its output, so that gradients also pass beside it.",
     "add"},
});

/// The parts of a list, `a, b`.
std::vector<std::string_view> parts_of(std::string_view list) {
  std::vector<std::string_view> parts;
  while (!list.empty()) {
    const std::size_t end = std::min(list.find(','), list.size());
    parts.push_back(trimmed(list.substr(0, end)));
    list.remove_prefix(std::min(end + 1, list.size()));
  }
  return parts;
}

/// The stages, operations and rules of an example.
std::vector<std::string> words_of(const WorkedExample& example) {
  std::vector<std::string> words;
  for (const WorkedStep& step : example.steps) {
    for (const WorkEntry& entry : entries_of(step.work)) {
      // Pages have one word for each stage.
      const bool is_reverse = entry.stage == WorkEntry::Stage::reverse;
      words.emplace_back(is_reverse ? "reverse" : word(entry.stage));
      words.push_back(entry.operation);
      words.push_back(entry.section);
    }
    if (step.work.rule()) words.emplace_back(step.work.rule()->word());
  }
  std::sort(words.begin(), words.end());
  words.erase(std::unique(words.begin(), words.end()), words.end());
  return words;
}

}  // namespace

std::span<const GlossaryTerm> glossary() {
  return terms;
}

bool is_about(const GlossaryTerm& term, std::span<const std::string> words) {
  return std::ranges::any_of(parts_of(term.where), [&](std::string_view each) {
    return std::ranges::find(words, each) != words.end();
  });
}

std::vector<GlossaryTerm> terms_of(const WorkedExample& example) {
  const std::vector<std::string> words = words_of(example);
  std::vector<GlossaryTerm> found;
  const auto add = [&](std::span<const GlossaryTerm> all) {
    std::ranges::copy_if(all, std::back_inserter(found),
                         [&](const GlossaryTerm& term) { return is_about(term, words); });
  };
  add(glossary());
  for (const ShownSubject& subject : shown_subjects())
    add(subject.terms);
  return found;
}

}  // namespace lattice
