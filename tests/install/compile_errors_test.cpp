#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <string>
#include <vector>

#include "support/process.hpp"

// What the compiler says of common slips: one line of each error says what to write instead.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;

/// The lines with an error of a function body that uses the library.
std::vector<std::string> errors_of(const std::string& body) {
  const Folder folder;
  const std::string source = folder.file(
      "slip.cpp",
      "#include <fmt/core.h>\n#include <iostream>\n#include \"lattice/lattice.hpp\"\n"
      "using namespace lattice;\n"
      "void slip(Worksheet& sheet, const Network& net, const Dataset& data, const Split& split,\n"
      "          const Batch& batch, const RunRecord& run, const Assessment& judged) {\n" +
          body + "\n}\n");
  const Answer answer = run_program(
      "/usr/bin/env", {"c++", "-std=c++20", "-fsyntax-only", "-I", LATTICE_SOURCE "/include", "-I",
                       LATTICE_BUILD "/include", source});
  EXPECT_EQ(answer.status == 0, body.empty()) << answer.err;
  std::vector<std::string> errors;
  for (std::size_t from = 0; from < answer.err.size();) {
    const std::size_t end = std::min(answer.err.find('\n', from), answer.err.size());
    const std::string line = answer.err.substr(from, end - from);
    if (line.find(" error: ") != std::string::npos) errors.push_back(line);
    from = end + 1;
  }
  return errors;
}

TEST(compiler, says_in_one_line_what_is_printed_instead) {
  EXPECT_TRUE(errors_of("").empty());
  EXPECT_THAT(errors_of("std::cout << net;"), ElementsAre(HasSubstr("net.plan()")));
  const std::vector<std::string> errors = errors_of(
      "std::cout << net << data;\nstd::cout << split;\nstd::cout << batch;\n"
      "std::cout << RowSet(data);\nstd::cout << run;\nstd::cout << judged;\n"
      "fmt::print(\"{}\", net);");
  for (const char* hint :
       {"net.plan(), with lattice/show/plan.hpp", "data.features.numbers()", "split.train.rows()",
        "batch.features", "rows.features()", "lattice/show/run.hpp for a RunRecord"}) {
    EXPECT_THAT(errors, ::testing::Contains(HasSubstr(hint)));
  }
}

TEST(compiler, says_where_the_numbers_of_a_line_are) {
  const char* const hint = "the numbers of a line are its value()";
  const std::string update =
      "const Line W = sheet.weight(\"W\", 3);\nconst Gradients g = reverse_sweep(W);\n";
  EXPECT_THAT(errors_of(update + "Tensor next(W - 0.1 * g[\"W\"]);"), ElementsAre(HasSubstr(hint)));
  EXPECT_THAT(errors_of(update + "Tensor next = W - 0.1 * g[\"W\"];"),
              ElementsAre(AllOf(HasSubstr("lattice::Line"), HasSubstr("lattice::Tensor"))));
  EXPECT_THAT(errors_of("const Line W = sheet.weight(\"W\", 3);\nsheet.weight(\"V\", 2 * W);"),
              ElementsAre(HasSubstr(hint)));
}

TEST(compiler, says_how_an_operation_of_ones_own_has_a_branch) {
  EXPECT_THAT(errors_of("const auto leaky = own_operation(\n"
                        "    \"leaky\", [](auto x) { return x > 0 ? x : 0.1 * x; },\n"
                        "    [](auto x) { return where(x > 0, 1.0, 0.1); });\n"
                        "static_cast<void>(leaky(sheet.weight(\"W\", 3)));"),
              ElementsAre(HasSubstr("write where(x > 0, a, b) for a branch")));
}

}  // namespace
}  // namespace lattice::testing
