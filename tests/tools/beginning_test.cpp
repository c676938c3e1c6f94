#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "lattice/lattice.hpp"
#include "lattice/lessons/model_file.hpp"
#include "support/command.hpp"

/// A new run that begins from what a model has learnt: neither gone on with nor started over.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

class Beginning : public ::testing::Test {
 protected:
  Beginning() {
    EXPECT_EQ(lattice({"train", "glazes", "--net", "dense 6, tanh, dense 4", "--rule", "adam",
                       "--epochs", "2", "--save", learnt, "--say", "nothing"})
                  .status,
              0);
  }

  Folder folder;
  std::string learnt = folder.path() / "learnt.lattice";
  std::string next = folder.path() / "next.lattice";
};

TEST_F(Beginning, takes_weights_and_counts_from_nothing) {
  const Answer answer =
      lattice({"train", "glazes", "--net", "dense 6, tanh, dense 4", "--from", learnt, "--rows",
               "300", "--epochs", "1", "--freeze", "hidden", "--save", next});
  ASSERT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.err, AllOf(HasSubstr("a new run, from " + learnt + ": hidden.weight"),
                                Not(HasSubstr("first-loss")), Not(HasSubstr("as they start"))));
  EXPECT_THAT(answer.out, AllOf(HasSubstr("from " + learnt), HasSubstr("hidden frozen"),
                                Not(HasSubstr("given"))));
  const ModelFile before = load_model(learnt);
  const ModelFile after = load_model(next);
  EXPECT_EQ(after.model.network["hidden.weight"], before.model.network["hidden.weight"]);
  EXPECT_NE(after.model.network["output.weight"], before.model.network["output.weight"]);
  EXPECT_EQ(after.run.updates, 12);  // 180 rows in minibatches of 16
  EXPECT_EQ(after.model.network.updates(), 12);
  // The rule of the model is not that of the new run.
  EXPECT_EQ(after.run.state->rule.word(), "descent");
}

TEST_F(Beginning, leaves_a_model_that_is_whole_without_the_first) {
  const Words run = {"train",  "glazes", "--net",    "dense 6, tanh, dense 4",
                     "--from", learnt,   "--seed",   "3",
                     "--rows", "300",    "--epochs", "2"};
  ASSERT_EQ(lattice(with(run, {"--save", next})).status, 0);
  std::filesystem::remove(learnt);
  EXPECT_EQ(lattice({"work", next, "--row", "3"}).status, 0);
  EXPECT_EQ(lattice({"train", "--resume", next, "--epochs", "1"}).status, 0);
  EXPECT_THAT(lattice(run).err, HasSubstr("cannot read " + learnt));
}

TEST_F(Beginning, is_the_first_epoch_of_the_lesson_to_the_last_bit) {
  // What the first run knew of the train part is where the second one begins.
  const Json first = json_of(lattice({"assess", learnt, "--json"}));
  const Json second = json_of(lattice({"train", "glazes", "--net", "dense 6, tanh, dense 4",
                                       "--from", learnt, "--epochs", "1", "--json"}));
  EXPECT_EQ(second["run"]["epochs"][0]["train"]["loss"], first["parts"]["train"]["loss"]);
}

TEST_F(Beginning, takes_the_parts_that_fit_and_says_which) {
  const Answer answer = lattice({"train", "cracks", "--net", "dense 5, tanh, output: dense 2",
                                 "--from", learnt, "--epochs", "1"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("no layer of the trained model fits"));
  const std::string table = folder.path() / "two.csv";
  std::ofstream(table) << "a,b,c,d,e,y\n1,2,3,4,5,no\n2,1,5,3,1,yes\n3,3,1,1,2,no\n4,0,1,2,2,yes\n"
                          "1,1,2,4,4,no\n5,2,2,1,1,yes\n";
  const Answer other =
      lattice({"train", "--file", table, "--target", "y", "--net", "dense 6, tanh, dense 2",
               "--from", learnt, "--epochs", "1", "--validation", "0", "--test", "0"});
  ASSERT_EQ(other.status, 0) << other.err;
  EXPECT_THAT(other.err, AllOf(HasSubstr(": hidden.weight, hidden.bias\n"),
                               HasSubstr("as they start: output.weight, output.bias"),
                               HasSubstr("trained on iron, lightness"), HasSubstr("here there are"),
                               HasSubstr("a, b, c, d, e")));
}

TEST_F(Beginning, is_one_of_three_things_and_never_two) {
  const auto refusal = [](const Words& words) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 2) << ::testing::PrintToString(words);
    return answer.err;
  };
  EXPECT_THAT(refusal({"train", "--resume", learnt, "--from", learnt}),
              HasSubstr("--resume or --from"));
  EXPECT_THAT(refusal({"train", learnt}),
              AllOf(HasSubstr("--resume " + learnt), HasSubstr("--from " + learnt)));
  EXPECT_THAT(refusal({"train", "glazes", "--net", "dense 6, tanh, dense 4", "--from", learnt,
                       "--save", learnt}),
              HasSubstr("--save would overwrite"));
  EXPECT_THAT(refusal({"train", "glazes", "--freeze", "output"}),
              HasSubstr("every weight is frozen"));
  EXPECT_THAT(refusal({"train", "glazes", "--rate-multiplier", "output"}),
              HasSubstr("hidden = 0.1"));
}

TEST_F(Beginning, of_a_lesson_file_is_found_beside_it) {
  const std::string lesson = folder.path() / "next.toml";
  std::ofstream(lesson) << "[data]\nset = \"glazes\"\n[network]\nfrom = \"learnt.lattice\"\n"
                           "net = \"dense 6, tanh, dense 4\"\nfreeze = \"hidden\"\n"
                           "rate_multiplier = [\"output.weight = 2\"]\n";
  const Answer answer = lattice({"work", lesson, "--batch", "3"});
  ASSERT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out,
              AllOf(HasSubstr("frozen weight"), HasSubstr("new output.weight, at 2 × the rate"),
                    Not(HasSubstr("new hidden.weight"))));
}

}  // namespace
}  // namespace lattice::testing
