#include "tools/verb.hpp"

#include <fmt/format.h>

#include <utility>

#include "lattice/text/error.hpp"

namespace lattice::tools {

using Takes = Option::Takes;
using Texts = std::vector<std::string>;

void Verb::declare(std::string name, std::string sentence, std::string type, Takes takes,
                   Demands demands, std::function<void(const Texts&)> read) {
  options_.push_back({.name = std::move(name),
                      .sentence = std::move(sentence),
                      .type = std::move(type),
                      .heading = heading_,
                      .takes = takes,
                      .demands = std::move(demands),
                      .read = std::move(read)});
}

void Verb::flag(std::string name, bool& place, std::string sentence, Demands demands) {
  declare(std::move(name), std::move(sentence), "", Takes::none, std::move(demands),
          [&place](const Texts& texts) { place = texts.front() == "true"; });
}

void Verb::text(std::string name, std::string& place, std::string sentence, std::string type,
                Demands demands) {
  declare(std::move(name), std::move(sentence), std::move(type), Takes::one, std::move(demands),
          [&place](const Texts& texts) { place = texts.front(); });
}

void Verb::file(std::string name, std::string& place, std::string sentence, std::string type) {
  const std::string option = name;
  declare(std::move(name), std::move(sentence), std::move(type), Takes::one, {},
          [&place, option](const Texts& texts) {
            if (texts.front().empty()) {
              throw SettingError({.what = fmt::format("{} names no file", option),
                                  .expected = "the path of a file",
                                  .found = "''"});
            }
            place = texts.front();
          });
}

void Verb::two_texts(std::string name, Texts& place, std::string sentence, std::string type) {
  declare(std::move(name), std::move(sentence), std::move(type), Takes::two, {},
          [&place](const Texts& texts) { place = texts; });
}

void Verb::texts(std::string name, Texts& place, std::string sentence, std::string type,
                 Demands demands) {
  declare(std::move(name), std::move(sentence), std::move(type), Takes::repeated,
          std::move(demands), [&place](const Texts& texts) { place = texts; });
}

void Verb::read(std::string name, std::function<void(const std::string&)> read,
                std::string sentence, std::string type, Demands demands) {
  declare(std::move(name), std::move(sentence), std::move(type), Takes::one, std::move(demands),
          [read = std::move(read)](const Texts& texts) { read(texts.front()); });
}

void Verb::read_each(std::string name, std::function<void(const std::string&)> read,
                     std::string sentence, std::string type) {
  declare(std::move(name), std::move(sentence), std::move(type), Takes::repeated, {},
          [read = std::move(read)](const Texts& texts) {
            for (const std::string& text : texts)
              read(text);
          });
}

void Verb::read_flag(std::string name, std::function<void(bool)> read, std::string sentence) {
  declare(std::move(name), std::move(sentence), "", Takes::none, {},
          [read = std::move(read)](const Texts& texts) { read(texts.front() == "true"); });
}

}  // namespace lattice::tools
