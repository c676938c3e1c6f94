#include "tools/answers.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "files/file.hpp"
#include "lattice/text/error.hpp"

namespace lattice::tools {
namespace {

std::string text_in(const Json& json, const char* name) {
  const auto found = json.find(name);
  return found != json.end() && found->is_string() ? found->get<std::string>() : "";
}

std::int64_t count_in(const Json& json, const char* name) {
  const auto found = json.find(name);
  return found != json.end() && found->is_number_integer() ? found->get<std::int64_t>() : 0;
}

BlankAnswer answer_in(const Json& json) {
  if (!json.is_object()) return {};
  BlankAnswer answer{.number = text_in(json, "number"),
                     .typed = text_in(json, "typed"),
                     .tries = std::max<std::int64_t>(count_in(json, "tries"), 0),
                     .hints = std::clamp<std::int64_t>(count_in(json, "hints"), 0, 2)};
  answer.state = mark_words.find(text_in(json, "state")).value_or(Mark::empty);
  const auto value = json.find("value");
  if (value != json.end() && value->is_number()) answer.value = value->get<double>();
  return answer;
}

}  // namespace

std::optional<Answers> read_answers(const std::filesystem::path& path) {
  Json json;
  try {
    json = parse_json(read_file(path, "answers"));
  } catch (const FileError&) {
    return std::nullopt;
  }
  if (!json.is_object() || !json.contains("answers") || !json["answers"].is_array())
    return std::nullopt;
  Answers answers{.exercise = text_in(json, "exercise"),
                  .variant = count_in(json, "variant"),
                  .page = text_in(json, "page"),
                  .name = text_in(json, "name")};
  for (const Json& each : json["answers"])
    answers.blanks.push_back(answer_in(each));
  return answers;
}

Json to_json(const Answers& answers) {
  Json blanks = Json::array();
  for (std::size_t at = 0; at < answers.blanks.size(); ++at) {
    const BlankAnswer& each = answers.blanks[at];
    blanks.push_back({{"blank", at + 1},
                      {"number", each.number},
                      {"typed", each.typed},
                      {"value", each.value ? Json(*each.value) : Json()},
                      {"state", mark_words.of(each.state)},
                      {"tries", each.tries},
                      {"hints", each.hints}});
  }
  return {{"exercise", answers.exercise},
          {"variant", answers.variant},
          {"page", answers.page},
          {"name", answers.name},
          {"answers", std::move(blanks)}};
}

}  // namespace lattice::tools
