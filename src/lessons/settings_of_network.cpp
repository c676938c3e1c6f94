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
      "The parts, such as \"dense 8, tanh, dense 4\"; one dense part when left out",
      [](Lesson& l, const Json& v) {
        const std::string text = text_in(v);
        static_cast<void>(parse_blueprint(text));
        l.blueprint = text;
      },
      [](const Lesson& l) -> Json { return l.blueprint.empty() ? Json() : Json(l.blueprint); }));
  all.push_back(own_setting(
      "network", "start", Entry::repeated, "HOW",
      "How weights start: zeros, normal 0.05, uniform -0.1 0.1, xavier, he; or numbers for one, "
      "such "
      "as hidden.bias=0,0.5",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v)) {
          if (text.find('=') == std::string::npos) static_cast<void>(parse_start(text));
          l.start.push_back(text);
        }
      },
      [](const Lesson& l) -> Json { return l.start.empty() ? Json() : Json(l.start); }));
  all.push_back(text_setting("network", "from", &Lesson::from, "MODEL",
                             "A model file: a new run begins with its weights, as far as they fit; "
                             "neither its run nor its "
                             "scaling is taken"));
  all.push_back(own_setting(
      "network", "freeze", Entry::repeated, "NAME",
      "Parts or weights that stay as they start: hidden, or hidden.weight",
      [](Lesson& l, const Json& v) {
        for (std::string& text : texts_in(v))
          l.frozen.push_back(std::move(text));
      },
      [](const Lesson& l) { return one_or_several(l.frozen); }));
  all.push_back(own_setting(
      "network", "rate_multiplier", Entry::repeated, "NAME=TIMES",
      "Parts or weights that learn at another rate than the others: \"hidden = 0.1\", a tenth of "
      "it",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v)) {
          const auto named = named_number(text);
          if (!named || !(named->second > 0.0)) {
            throw wrong(
                "a part or a weight and how many times the rate it learns at, above 0: "
                "\"hidden = 0.1\"",
                Json(text));
          }
          l.rate_multipliers.push_back(*named);
        }
      },
      [](const Lesson& l) {
        std::vector<std::string> texts;
        for (const auto& [name, rate_multiplier] : l.rate_multipliers)
          texts.push_back(fmt::format("{} = {}", name, rate_multiplier));
        return one_or_several(texts);
      }));
  all.push_back(choice_setting(
      "network", "precision", precision_words, [](auto& l) -> auto& { return l.precision; }, "HOW",
      "double or single"));
}

}  // namespace lattice::settings
