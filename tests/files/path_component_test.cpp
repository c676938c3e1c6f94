#include "files/path_component.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <set>

namespace lattice {
namespace {

TEST(path_components, stay_in_their_folder_and_give_the_name_back) {
  std::set<std::string> seen;
  for (const std::string name :
       {"celadon",     "a b",      "..",          ".",     "../../x", "/abs", "a/b",
        "a%2Fb",       "%",        "%%",          "50 %",  "%2F",     "",     ".hidden",
        "line\nbreak", "\x1B[31m", "back\\slash", "größe", "\xFF",    "a\x7F"}) {
    const std::string component = path_component(name);
    const std::filesystem::path path = std::filesystem::path("folder") / component;
    EXPECT_EQ(path.parent_path(), "folder") << name;
    EXPECT_EQ(path.lexically_normal(), path) << name;
    EXPECT_FALSE(component.starts_with('.')) << name;
    EXPECT_EQ(component.find_first_of("/\\\n\x1B"), std::string::npos) << name;
    EXPECT_EQ(name_of_component(component), name);
    EXPECT_TRUE(seen.insert(component).second) << name;
  }
}

TEST(path_components, of_ordinary_names_are_the_names) {
  for (const std::string name : {"celadon", "a b", "50 %", "größe", "a.b", "it's"})
    EXPECT_EQ(path_component(name), name);
  // What somebody else has called so is no name of ours.
  for (const std::string component : {"%41", "%2f", "%ZZ", "%2", "a%"})
    EXPECT_EQ(name_of_component(component), component);
}

}  // namespace
}  // namespace lattice
