#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <sstream>

#include "support/worked.hpp"

namespace lattice::testing {
namespace {

const Words numbers_lesson = {"work",    "glazes", "--net",  "dense 3, tanh, dense 4",
                              "--batch", "3",      "--rule", "adam",
                              "--step",  "2"};

/// The words of a text, without what draws the paper.
std::vector<std::string> words_of(const std::string& text) {
  std::istringstream in(text);
  std::vector<std::string> words;
  for (std::string word; in >> word;) {
    if (word != "│") words.push_back(word);
  }
  return words;
}

/// Each number in turn, as it is written for reading, is somewhere after the one before.
void expect_in_order(const std::vector<std::string>& words, const Json& numbers,
                     const std::string& what) {
  auto from = words.begin();
  for (const double number : flat(numbers)) {
    from = std::find(from, words.end(), format_number(number));
    ASSERT_NE(from, words.end()) << what << ": " << format_number(number);
    ++from;
  }
}

TEST(terminal, shows_the_numbers_of_the_worked_example) {
  const Json step = json_of(lattice(with(numbers_lesson, {"--json"})))["steps"][0];
  const std::string text = lattice(numbers_lesson).out;
  const auto entry = [&](const std::string& title) {
    const std::size_t from = text.find("│ " + title);
    EXPECT_NE(from, std::string::npos) << title;
    const std::size_t end = text.find("    │\n", from);
    return words_of(text.substr(text.find('\n', from), end - text.find('\n', from)));
  };
  for (const Json& line : step["lines"]) {
    const std::string name = line["name"];
    const std::string symbols = line["symbols"];
    expect_in_order(entry(name + (symbols.empty() ? " " : " = ")), line["values"], name);
  }
  for (const Json& reverse : step["reverse"]) {
    const std::string name = reverse["name"];
    expect_in_order(entry("∂" + name), reverse["gradient"], "∂" + name);
  }
}

TEST(spreadsheet, says_the_numbers_of_the_worked_example_before_anybody_calculates_it) {
  if (!std::filesystem::exists("/usr/bin/soffice"))
    GTEST_SKIP() << "LibreOffice is not here: no spreadsheet was read (package libreoffice-calc)";
  const Folder folder;
  const std::string path = folder.path() / "w.xlsx";
  ASSERT_EQ(lattice(with(numbers_lesson, {"--xlsx", path})).status, 0);
  const Json step = json_of(lattice(with(numbers_lesson, {"--json"})))["steps"][0];
  const std::string jobs = folder.file("jobs.json", Json::array({{{"file", path}}}).dump());
  const Json book = json_of(
      run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/recalculate.py", jobs}))[0];
  std::size_t tables = 0;
  for (const auto& [sheet, content] : book.items()) {
    if (sheet == "any row") continue;  // Its lines are others.
    const Json& cells = content["cells"];
    for (std::size_t row = 2; row < cells.size(); ++row) {
      // A heading: hidden = x·… [shape], ∂hidden [shape], m of hidden.weight [shape].
      const std::string heading = cells[row][1].is_string() ? cells[row][1] : "";
      const std::size_t bracket = heading.find("   [");
      if (bracket == std::string::npos) continue;
      std::string name = heading.substr(0, std::min(bracket, heading.find(" = ")));
      std::string weight;
      if (const std::size_t of = name.find(" of "); of != std::string::npos) {
        weight = name.substr(of + 4);
        name = name.substr(0, of);
      }
      const Json numbers = numbers_of(step, name, weight);
      ASSERT_FALSE(numbers.is_null()) << heading;
      const std::vector<double> all = flat(numbers);
      std::size_t at = 0;
      for (std::size_t r = row + (numbers.is_array() ? 2 : 1); at < all.size(); ++r) {
        for (std::size_t c = 2; c < cells[r].size() && cells[r][c].is_array(); ++c) {
          // The library that writes the file rounds to 16 digits.
          const double number = all.at(at++);
          EXPECT_NEAR(cells[r][c][0].get<double>(), number, 1e-15 * std::max(1.0, std::abs(number)))
              << sheet << " " << heading;
        }
      }
      ++tables;
    }
  }
  EXPECT_GE(tables, 50U);
}

// The page writes numbers with code of its own: it has to round and cut as the terminal does.
TEST(page, writes_any_number_as_the_terminal_does) {
  const Folder folder;
  const std::string page = folder.path() / "p.html";
  ASSERT_EQ(lattice({"work", "kiln", "--html", page}).status, 0);
  std::mt19937_64 random(7);
  std::uniform_real_distribution<double> power(-14.0, 14.0);
  std::uniform_real_distribution<double> front(-10.0, 10.0);
  // Halves that lie just between two roundings, and the ends of each way of writing.
  std::vector<double> numbers = {
      0.0,  0.5,        0.00390625, 0.01171875, 99999.5, 100000.5, 123456789, 1e9,     999999999.5,
      1e-4, 0.00012345, 9.99995e-5, -0.1,       1.0 / 3, 1e300,    -1e-300,   12345.5, 2.5};
  for (int at = 0; at < 3000; ++at)
    numbers.push_back(front(random) * std::pow(10.0, power(random)));
  const Json report = json_of(
      run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/drive_page.py", page, "[]",
                                       folder.file("numbers.json", Json(numbers).dump())}));
  ASSERT_EQ(report["formatted"].size(), numbers.size());
  for (std::size_t at = 0; at < numbers.size(); ++at)
    EXPECT_EQ(report["formatted"][at], format_number(numbers[at]))
        << fmt::format("{}", numbers[at]);
}

}  // namespace
}  // namespace lattice::testing
