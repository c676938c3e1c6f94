#include "lessons/setting_kinds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <nlohmann/json.hpp>

#include "lattice/network/blueprint.hpp"

namespace lattice::settings {
void add_network_settings(std::vector<LessonSetting>& all) {
  all.push_back(own_setting(
      "network", "net", Entry::text, "BLUEPRINT",
      "The layers, such as \"dense 8, tanh, dense 4\" (default: one dense layer)",
      [](Lesson& l, const Json& v) {
        const std::string text = text_in(v);
        static_cast<void>(parse_blueprint(text));
        l.network.blueprint = text;
      },
      [](const Lesson& l) -> Json {
        return l.network.blueprint.empty() ? Json() : Json(l.network.blueprint);
      }));
  all.push_back(own_setting(
      "network", "start", Entry::repeated, "HOW",
      "Initial weights: zeros, normal 0.05, uniform -0.1 0.1, xavier, he; or numbers for one, such "
      "as hidden.bias=0,0.5",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v)) {
          if (text.find('=') == std::string::npos) static_cast<void>(parse_start(text));
          l.network.start.push_back(text);
        }
      },
      [](const Lesson& l) -> Json {
        return l.network.start.empty() ? Json() : Json(l.network.start);
      }));
  all.push_back(path_setting(
      "network", "from", [](auto& l) -> auto& { return l.network.from; }, "MODEL",
      "A model file: start from its weights where they fit, without its run and scaling"));
  all.push_back(list_setting(
      "network", "freeze", [](auto& l) -> auto& { return l.network.frozen; }, Entry::repeated,
      "NAME", "Layers or weights to freeze: hidden, or hidden.weight"));
  all.push_back(own_setting(
      "network", "rate_multiplier", Entry::repeated, "NAME=TIMES",
      "Rate multiplier of a layer or weight: \"hidden = 0.1\"",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v)) {
          const auto named = named_number(text);
          if (!named || !(named->second > 0.0)) {
            throw wrong("a layer or a weight and its rate multiplier, above 0: \"hidden = 0.1\"",
                        Json(text));
          }
          l.network.rate_multipliers.push_back(*named);
        }
      },
      [](const Lesson& l) {
        std::vector<std::string> texts;
        for (const auto& [name, rate_multiplier] : l.network.rate_multipliers)
          texts.push_back(fmt::format("{} = {}", name, rate_multiplier));
        return one_or_several(texts);
      }));
  all.push_back(yes_or_no_setting(
      "network", "biases_decay", [](auto& l) -> auto& { return l.network.biases_decay; },
      "Let the L2 term and weight decay apply to biases, too"));
  all.push_back(choice_setting(
      "network", "precision", precision_words, [](auto& l) -> auto& { return l.network.precision; },
      "HOW", "Precision of all numbers: double or single"));
}

}  // namespace lattice::settings
