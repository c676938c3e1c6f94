#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lessons/model_file.hpp"
#include "support/command.hpp"
#include "support/worked.hpp"

/// A trained network that is asked how it came to its answers.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

class answering : public ::testing::Test {
 protected:
  static void SetUpTestSuite() {
    folder() = std::make_unique<Folder>();
    for (const auto& [set, net] :
         {std::pair("glazes", "dense 4, tanh, dense 4"), std::pair("shrinkage", "dense 1")}) {
      ASSERT_EQ(lattice({"train", set, "--net", net, "--epochs", "6", "--rule", "adam", "--rate",
                         "0.02", "--save", model(set), "--quiet", "all"})
                    .status,
                0);
    }
  }
  static void TearDownTestSuite() { folder().reset(); }

  static std::unique_ptr<Folder>& folder() {
    static std::unique_ptr<Folder> one;
    return one;
  }
  static std::string model(const std::string& set) { return folder()->path() / (set + ".lattice"); }
};

const std::string record = "iron=2.7,lightness=45,thickness=0.53,gloss=63,peak=1248";

TEST_F(answering, works_a_record_from_what_was_measured_to_what_is_said_of_it) {
  const Json asked = json_of(lattice({"ask", model("glazes"), "--record", record, "--json"}));
  const Answer answer = lattice({"work", model("glazes"), "--record", record});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, AllOf(HasSubstr("Scaling"), HasSubstr("answer = argmax(output; class)"),
                                HasSubstr("│ ∂raw"), HasSubstr("Data: the sweep ends here"),
                                HasSubstr("What the answer depends on")));
  EXPECT_THAT(answer.out, AllOf(Not(HasSubstr("Update")), Not(HasSubstr("Rows taken"))));

  const Json worked = json_of(lattice({"work", model("glazes"), "--record", record, "--json"}));
  const Json& step = worked["steps"][0];
  const std::vector<double> p = flat(named(step["lines"], "p")["values"]);
  const auto said =
      static_cast<std::size_t>(flat(named(step["lines"], "answer")["values"]).front());
  EXPECT_EQ(asked["answers"][0]["glaze"], worked["classes"][said]);
  for (std::size_t of = 0; of < p.size(); ++of) {
    const std::string name = worked["classes"][of];
    EXPECT_NEAR(p[of], asked["answers"][0]["probabilities"][name].get<double>(), 1e-12);
  }
  EXPECT_EQ(step["swept_from"], "winning");
  EXPECT_FALSE(step.contains("step"));
  ASSERT_EQ(worked["influences"].size(), 5U);
  for (std::size_t at = 0; at < 5; ++at)
    EXPECT_EQ(worked["influences"][at]["slope"], step["gradients"]["raw"][0][at]);
}

TEST_F(answering, gives_json_as_its_schema_says) {
  for (const auto& [set, question] :
       {std::pair<std::string, Words>{"glazes", {"--record", record}},
        std::pair<std::string, Words>{"glazes", {"--wrong", "3"}},
        std::pair<std::string, Words>{"shrinkage", {"--row", "2,5"}}}) {
    const std::string path = folder()->path() / "worked.json";
    const Answer written = lattice(with({"work", model(set), "--json", path}, question));
    ASSERT_EQ(written.status, 0) << written.err;
    const Answer schema = run_program(
        "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py",
                             LATTICE_SOURCE "/docs/schemas/worked_example.schema.json", path});
    EXPECT_EQ(schema.status, 0) << schema.out << schema.err;
  }
}

TEST_F(answering, shows_the_rows_that_were_got_wrong_worst_first) {
  const Json worked =
      json_of(lattice({"work", model("glazes"), "--wrong", "4", "--part", "train", "--json"}));
  const Json& lines = worked["steps"][0]["lines"];
  EXPECT_EQ(flat(named(lines, "right")["values"]), (std::vector<double>{0, 0, 0, 0}));
  const std::vector<double> p = flat(named(lines, "p")["values"]);
  const std::vector<double> y = flat(named(lines, "y")["values"]);
  for (std::size_t row = 1; row < 4; ++row) {
    EXPECT_LE(p[(row - 1) * 4 + static_cast<std::size_t>(y[row - 1])],
              p[row * 4 + static_cast<std::size_t>(y[row])]);
  }
  EXPECT_THAT(worked["title"].get<std::string>(),
              AllOf(HasSubstr("got wrong"), HasSubstr("train part")));
  // Of numbers, those that are farthest off.
  const Json numbers = json_of(lattice({"work", model("shrinkage"), "--wrong", "3", "--json"}));
  const std::vector<double> off = flat(named(numbers["steps"][0]["lines"], "off")["values"]);
  EXPECT_GE(std::abs(off[0]), std::abs(off[1]));
  EXPECT_GE(std::abs(off[1]), std::abs(off[2]));
}

TEST_F(answering, explains_any_number_of_it) {
  const auto why = [](const Words& words) { return lattice(with({"why"}, words)).out; };
  EXPECT_THAT(why({"winning", model("glazes"), "--row", "17"}),
              HasSubstr("winning[0] = output[0,"));
  EXPECT_THAT(why({"raw[0,1]", model("glazes"), "--row", "17"}),
              HasSubstr("glazes, row 17, column lightness"));
  EXPECT_THAT(why({"raw[0,1]", model("glazes"), "--record", record}),
              HasSubstr("record 0, column lightness"));
  EXPECT_THAT(why({"raw[0,1]", model("glazes"), "--row", "17", "--gradient", "--of", "shino"}),
              HasSubstr("∂score/∂raw[0,1] = ∂x[0,1]·(1/divisor[1])"));
  EXPECT_THAT(why({"answer", model("shrinkage"), "--row", "3"}),
              HasSubstr("answer[0,0] = output[0,0]·y_divisor[0] + y_centre[0]"));
  const Json json = json_of(lattice({"why", "winning", model("glazes"), "--row", "17", "--json"}));
  EXPECT_FALSE(json.contains("step"));
  EXPECT_EQ(json["evaluates_to"], json["value"]);
}

TEST_F(answering, has_every_other_form_too) {
  for (const char* const form : {"--html", "--xlsx", "--graph"}) {
    const std::string path = folder()->path() / (std::string(form).substr(2) + ".svg");
    const std::string file =
        std::string(form) == "--graph" ? path : path.substr(0, path.size() - 4);
    const Answer answer = lattice({"work", model("glazes"), "--wrong", "2", form, file});
    EXPECT_EQ(answer.status, 0) << form << answer.err;
    EXPECT_GT(std::filesystem::file_size(file), 5'000U) << form;
  }
}

TEST_F(answering, teaches_when_it_cannot_be_done) {
  const auto trouble = [](const Words& words) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 2);
    return answer.err;
  };
  const std::string glazes = model("glazes");
  EXPECT_THAT(trouble({"work", glazes}), HasSubstr("one of --record, --row, --node, --wrong"));
  EXPECT_THAT(trouble({"work", glazes, "--row", "1", "--wrong", "1"}),
              HasSubstr("several of them"));
  EXPECT_THAT(trouble({"work", "glazes", "--row", "1"}),
              HasSubstr("--record and --row need a trained model"));
  EXPECT_THAT(trouble({"compare", glazes}), HasSubstr("there is nothing to compare"));
  for (const char* verb : {"plan", "data", "check", "new"}) {
    EXPECT_THAT(trouble({verb, glazes}),
                AllOf(HasSubstr("is a trained model"), HasSubstr("lattice assess")));
  }
  EXPECT_THAT(trouble({"why", "loss", "--wrong", "1"}), HasSubstr("found:    nothing"));
  EXPECT_THAT(trouble({"work", glazes, "--row", "1", "--epochs", "3"}),
              HasSubstr("--epochs is for a lesson"));
  EXPECT_THAT(trouble({"work", glazes, "--row", "1", "--steps", "2"}),
              HasSubstr("a model has no steps"));
  EXPECT_THAT(trouble({"why", "loss", glazes, "--row", "1", "--step", "2"}),
              HasSubstr("a model has no steps"));
  EXPECT_THAT(trouble({"work", glazes, "--row", "9999"}), HasSubstr("has no row 9999"));
  EXPECT_THAT(trouble({"work", glazes, "--row", "1", "--of", "shina"}), HasSubstr("shino"));
  EXPECT_THAT(trouble({"work", glazes, "--wrong", "1", "--part", "exam"}),
              HasSubstr("no part 'exam'"));
  EXPECT_THAT(trouble({"work", glazes, "--record", "iron=2"}), HasSubstr("a feature is missing"));
  EXPECT_THAT(trouble({"why", "hidden.weight[0,0]", glazes, "--row", "1", "--update"}),
              HasSubstr("here none is"));
}

}  // namespace
}  // namespace lattice::testing
