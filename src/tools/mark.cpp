#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "files/file.hpp"
#include "lattice/files/json.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/words.hpp"
#include "show/ink.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"
#include "tools/answers.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

namespace fs = std::filesystem;

/// One blank of a key.
struct KeyAnswer {
  std::string number;
  double answer;
  double within;
};

/// One variant of a key.
struct KeyVariant {
  std::int64_t variant;
  std::vector<KeyAnswer> answers;
};

/// What a student returned, marked.
struct Returned {
  std::string file;
  std::string name;
  std::int64_t variant;
  std::vector<Mark> marks;
  std::int64_t hints = 0;
  std::vector<std::string> numbers;  ///< the names of the blanks

  [[nodiscard]] std::int64_t right() const { return std::ranges::count(marks, Mark::right); }
};

[[noreturn]] void refuse_key(const std::string& path, const std::string& found) {
  throw FileError({.what = path + " is not an answer key",
                   .expected = "the key that work --variants wrote",
                   .found = found});
}

/// The variants of a key, by the exercise.
std::map<std::string, KeyVariant> read_key(const std::string& path) {
  std::map<std::string, KeyVariant> variants;
  const Json json = parse_json(read_file(path, "an answer key"));
  if (!json.is_object() || !json.contains("variants") || !json["variants"].is_array())
    refuse_key(path, "JSON without variants");
  try {
    for (const Json& each : json["variants"]) {
      KeyVariant variant{.variant = each.at("variant").get<std::int64_t>(), .answers = {}};
      for (const Json& answer : each.at("answers")) {
        variant.answers.push_back({.number = answer.at("number").get<std::string>(),
                                   .answer = answer.at("answer").get<double>(),
                                   .within = answer.at("within").get<double>()});
      }
      variants.emplace(each.at("exercise").get<std::string>(), std::move(variant));
    }
  } catch (const Json::exception&) {
    refuse_key(path, "a variant without its number, its exercise or its answers");
  }
  return variants;
}

/// Marks one answer by what was typed; what a file says of itself is not taken on trust.
Mark marked(const BlankAnswer& answer, const KeyAnswer& key) {
  if (answer.state == Mark::shown) return Mark::shown;
  if (!answer.value) return Mark::empty;
  return std::abs(*answer.value - key.answer) <= key.within ? Mark::right : Mark::wrong;
}

/// Marks a returned file; nothing where it is no answers to an exercise of the key.
std::optional<Returned> marked(const fs::path& path, const std::map<std::string, KeyVariant>& key) {
  const std::optional<Answers> answers = read_answers(path);
  if (!answers) return std::nullopt;
  const auto variant = key.find(answers->exercise);
  if (variant == key.end()) return std::nullopt;
  Returned returned{.file = path.filename().string(),
                    .name = answers->name,
                    .variant = variant->second.variant,
                    .marks = {},
                    .numbers = {}};
  const std::vector<KeyAnswer>& right = variant->second.answers;
  for (std::size_t at = 0; at < right.size(); ++at) {
    const BlankAnswer answer = at < answers->blanks.size() ? answers->blanks[at] : BlankAnswer();
    returned.marks.push_back(marked(answer, right[at]));
    returned.numbers.push_back(right[at].number);
    returned.hints += answer.hints;
  }
  if (returned.name.empty()) returned.name = returned.file;
  return returned;
}

constexpr Words<Mark> mark_signs = {
    {Mark::right, "✓"}, {Mark::wrong, "✗"}, {Mark::shown, "shown"}, {Mark::empty, "–"}};

/// A blank, and how many did not get it right.
struct OftenWrong {
  std::size_t blank;
  std::int64_t count;
};

/// The blanks that were not got right, the most often first.
std::vector<OftenWrong> often_wrong(const std::vector<Returned>& all) {
  std::vector<OftenWrong> blanks;
  for (const Returned& each : all) {
    for (std::size_t at = 0; at < each.marks.size(); ++at) {
      if (at >= blanks.size()) blanks.push_back({at, 0});
      if (each.marks[at] != Mark::right) ++blanks[at].count;
    }
  }
  std::erase_if(blanks, [](const OftenWrong& each) { return each.count == 0; });
  std::ranges::stable_sort(blanks, std::greater{}, &OftenWrong::count);
  return blanks;
}

/// The table that the numbers of a blank stand in, `∂hidden`, where it is the same in all variants;
/// else the names.
std::string numbers_of(const std::vector<Returned>& all, std::size_t blank) {
  std::vector<std::string> tables;
  for (const Returned& each : all) {
    if (blank >= each.numbers.size()) continue;
    const std::string table = each.numbers[blank].substr(0, each.numbers[blank].find('['));
    if (std::ranges::find(tables, table) == tables.end()) tables.push_back(table);
  }
  return fmt::format("{}", fmt::join(tables, " or "));
}

std::string as_table(const std::vector<Returned>& all, const TerminalStyle& style) {
  std::size_t most = 0;
  for (const Returned& each : all)
    most = std::max(most, each.marks.size());
  std::vector<TextTable::Heading> headings = {{"student", TextTable::Set::left}, {"variant"}};
  for (std::size_t at = 1; at <= most; ++at)
    headings.push_back({fmt::format("▢{}", at)});
  headings.push_back({"right"});
  headings.push_back({"hints"});
  TextTable table(std::move(headings));
  for (const Returned& each : all) {
    std::vector<TextTable::Entry> row = {each.name, fmt::format("{}", each.variant)};
    for (std::size_t at = 0; at < most; ++at) {
      const bool is_there = at < each.marks.size();
      row.emplace_back(is_there ? std::string(mark_signs.of(each.marks[at])) : "",
                       is_there && each.marks[at] == Mark::right   ? ink::positive
                       : is_there && each.marks[at] == Mark::wrong ? ink::negative
                                                                   : std::string_view());
    }
    row.emplace_back(fmt::format("{} of {}", each.right(), each.marks.size()));
    row.emplace_back(fmt::format("{}", each.hints));
    table.add(std::move(row));
  }
  std::string text = table.text(style);
  const std::vector<OftenWrong> wrong = often_wrong(all);
  if (wrong.empty()) return text;
  text += "\nmost often not right\n";
  constexpr std::size_t most_told = 5;
  for (const OftenWrong& each : std::span(wrong).first(std::min(most_told, wrong.size()))) {
    text += fmt::format("  ▢{}  {} of {}  {}\n", each.blank + 1, each.count, all.size(),
                        harmless(numbers_of(all, each.blank)));
  }
  return text;
}

Json in_json(const std::vector<Returned>& all, const std::vector<std::string>& others) {
  Json students = Json::array();
  for (const Returned& each : all) {
    Json marks = Json::array();
    for (std::size_t at = 0; at < each.marks.size(); ++at)
      marks.push_back({{"number", each.numbers[at]}, {"mark", mark_words.of(each.marks[at])}});
    students.push_back({{"file", each.file},
                        {"name", each.name},
                        {"variant", each.variant},
                        {"right", each.right()},
                        {"hints", each.hints},
                        {"blanks", std::move(marks)}});
  }
  Json wrong = Json::array();
  for (const OftenWrong& each : often_wrong(all)) {
    wrong.push_back({{"blank", each.blank + 1},
                     {"not_right", each.count},
                     {"numbers", numbers_of(all, each.blank)}});
  }
  return {{"students", students}, {"most_often_not_right", wrong}, {"not_marked", others}};
}

/// The files of a folder by name.
std::vector<fs::path> files_of(const std::string& folder) {
  if (!is_folder(folder)) {
    throw FileError({.what = folder + " is not a folder",
                     .expected = "the folder with the answers that came back",
                     .found = fs::exists(fs::path(folder)) ? "a file" : "nothing of that name"});
  }
  std::vector<fs::path> files;
  std::error_code error;
  for (fs::directory_iterator each(folder, error), end; !error && each != end;
       each.increment(error)) {
    if (each->path().extension() == ".json" && is_plain_file(each->path()))
      files.push_back(each->path());
  }
  std::ranges::sort(files);
  return files;
}

/// The only key among some files. @throws FileError where there is none, or more than one.
std::string key_among(const std::vector<fs::path>& files, const std::string& folder) {
  std::vector<std::string> keys;
  for (const fs::path& each : files) {
    if (each.filename().string().ends_with("-key.json")) keys.push_back(each.string());
  }
  if (keys.size() == 1) return keys.front();
  throw FileError({.what = "which answer key?",
                   .expected = "one file …-key.json in " + folder + ", or --key",
                   .found = keys.empty() ? "none" : fmt::format("{}", fmt::join(keys, ", ")),
                   .remedy = "--key exercise-key.json"});
}

void declare_mark(Verb& verb, Console& console) {
  struct Asked {
    std::string folder;
    std::string key;
    bool json = false;
  };
  auto asked = std::make_shared<Asked>();
  verb.text("folder", asked->folder, "The folder with the files that “save answers” wrote",
            "FOLDER", {.required = true});
  verb.file("--key", asked->key, "The answer key (default: the only …-key.json in the folder)",
            "FILE");
  verb.flag("--json", asked->json, "Print one JSON document and nothing else");
  verb.runs([asked, &console] {
    const std::vector<fs::path> files = files_of(asked->folder);
    const std::string key_path = asked->key.empty() ? key_among(files, asked->folder) : asked->key;
    const std::map<std::string, KeyVariant> key = read_key(key_path);
    std::vector<Returned> all;
    std::vector<std::string> others;
    for (const fs::path& each : files) {
      std::error_code problem;
      if (fs::equivalent(each, key_path, problem)) continue;
      if (std::optional<Returned> returned = marked(each, key)) {
        all.push_back(std::move(*returned));
      } else {
        others.push_back(each.filename().string());
      }
    }
    if (asked->json) {
      write(console.out, in_json(all, others));
      return;
    }
    for (const std::string& each : others)
      console.tell_line(fmt::format("{}: no answers to an exercise of this key", harmless(each)));
    if (all.empty()) {
      throw FileError({.what = "there is nothing to mark in " + asked->folder,
                       .expected = "files that “save answers” wrote",
                       .found = counted(std::ssize(others), "other file", "other files")});
    }
    console.out << as_table(all, console.style);
  });
}

}  // namespace

Verb mark_verb(Console& console) {
  return {"mark", "Mark the answers to an exercise that came back", console, declare_mark};
}

}  // namespace lattice::tools
