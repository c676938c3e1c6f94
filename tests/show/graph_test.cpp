#include "lattice/show/graph.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

const Words graph_lesson = {"work", "glazes", "--net", "dense 8, tanh, dense 4"};

TEST(graph, has_every_line_with_its_shape_weights_marked_and_sections_boxed) {
  const Folder folder;
  const std::string path = folder.path() / "g.dot";
  ASSERT_EQ(lattice(with(graph_lesson, {"--graph", path})).status, 0);
  const std::string dot = content_of(path);
  EXPECT_THAT(
      dot,
      HasSubstr(
          R"(line9 [label="9   hidden = x·hidden.weight + hidden.bias\ndense [example 16 × unit 8]")"));
  EXPECT_THAT(dot, HasSubstr("penwidth=2"));
  EXPECT_THAT(dot, HasSubstr("label=\"hidden\""));
  EXPECT_THAT(dot, HasSubstr("line7 -> line9;"));
  EXPECT_THAT(dot, Not(HasSubstr("∂")));
  ASSERT_EQ(lattice(with(graph_lesson, {"--graph", path, "--gradients"})).status, 0);
  EXPECT_THAT(content_of(path), HasSubstr("line7 -> line9 [label=\"xᵀ·∂hidden\"]"));
}

TEST(graph, is_drawn_in_the_form_that_its_ending_names) {
  const Folder folder;
  for (const auto& [ending, start] :
       {std::pair{".svg", "<?xml"}, {".png", "\x89PNG"}, {".pdf", "%PDF"}}) {
    const std::string path = (folder.path() / "g").string() + ending;
    ASSERT_EQ(lattice(with(graph_lesson, {"--graph", path})).status, 0) << ending;
    EXPECT_THAT(content_of(path), StartsWith(start));
  }
  const Answer answer = lattice(with(graph_lesson, {"--graph", folder.path() / "g.bmp"}));
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr(".svg, .png, .pdf or .dot"));
}

TEST(graph, keeps_odd_names_in_their_quotes) {
  const Folder folder;
  const std::string table = folder.file("t.csv", "\"a\"\"b\\\",y\n1,2\n2,4\n3,6\n4,8\n5,9\n");
  const std::string path = folder.path() / "g.svg";
  EXPECT_EQ(lattice({"work", "--file", table, "--target", "y", "--graph", path}).status, 0);
}

}  // namespace
}  // namespace lattice::testing
