#include "show/glossary.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>

#include "lattice/lattice.hpp"
#include "support/worked_lessons.hpp"

namespace lattice::testing {
namespace {

/// All terms: those of the core, and those of subjects.
std::vector<GlossaryTerm> all_terms() {
  std::vector<GlossaryTerm> all(glossary().begin(), glossary().end());
  for (const ShownSubject& subject : shown_subjects())
    all.insert(all.end(), subject.terms.begin(), subject.terms.end());
  return all;
}

TEST(glossary, has_each_term_once_and_says_what_it_means) {
  std::set<std::string_view> names;
  for (const GlossaryTerm& term : all_terms()) {
    EXPECT_TRUE(names.insert(term.name).second) << term.name;
    EXPECT_TRUE(term.meaning.ends_with('.') || term.meaning.ends_with(')')) << term.name;
    EXPECT_LT(term.meaning.size(), 250U) << term.name;
    EXPECT_FALSE(term.where.empty()) << term.name;
  }
  EXPECT_GT(names.size(), 60U);
}

TEST(glossary, has_no_term_that_no_lesson_is_about) {
  std::vector<std::pair<Lesson, std::int64_t>> lessons = worked_lessons();
  for (const char* toml :
       {"[data]\nset = \"stamps\"\n[training]\nbatch = 2\naugment = \"shift 1\"\n[network]\nnet = "
        "\"contrast 3, conv 2 of 3x3, normalise, leaky-relu, maximum 2, average 2, flatten, "
        "dense "
        "8\"\n",
        "[data]\nset = \"kiln\"\n[training]\nbatch = 3\nloss = \"mean squared\"\n",
        "[data]\nset = \"studios\"\n"})
    lessons.emplace_back(lesson_of(toml), 1);
  std::set<std::string_view> met;
  for (const auto& [lesson, step] : lessons) {
    for (const GlossaryTerm& term : terms_of(prepare(lesson).work(std::vector<std::int64_t>{step})))
      met.insert(term.name);
  }
  // Of the frozen network that answers.
  const std::vector<std::string> answering = {"frozen weight"};
  for (const GlossaryTerm& term : all_terms())
    EXPECT_TRUE(met.contains(term.name) || is_about(term, answering)) << term.name;
}

TEST(glossary, explains_on_a_page_what_is_there_and_nothing_else) {
  const auto names_for = [](const std::string& toml) {
    std::set<std::string_view> names;
    for (const GlossaryTerm& term :
         terms_of(prepare(lesson_of(toml)).work(std::vector<std::int64_t>{1})))
      names.insert(term.name);
    return names;
  };
  const auto dense = names_for(
      "[data]\nset = \"glazes\"\n[training]\nrule = \"descent\"\nbatch = 3\n[network]\nnet = "
      "\"dense 3, "
      "tanh, dense 4\"\n");
  for (const char* name : {"dense layer", "tanh", "softmax", "reverse sweep", "gradient descent"})
    EXPECT_TRUE(dense.contains(name)) << name;
  for (const char* name : {"ReLU", "kernel", "node", "adam", "dropout", "L2 term", "squared error"})
    EXPECT_FALSE(dense.contains(name)) << name;
}

}  // namespace
}  // namespace lattice::testing
