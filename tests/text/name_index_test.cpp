#include "lattice/text/detail/name_index.hpp"

#include <gtest/gtest.h>

#include <string>
#include <vector>

namespace lattice::detail {
namespace {

TEST(names, are_the_same_only_letter_for_letter) {
  for (std::size_t size = 0; size <= 40; ++size) {
    std::string name;
    for (std::size_t at = 0; at < size; ++at)
      name += static_cast<char>('a' + at % 26);
    const std::string same = name;
    EXPECT_TRUE(is_same_name(name, same));
    EXPECT_EQ(hash_of(name), hash_of(same));
    EXPECT_FALSE(is_same_name(name, name + "a"));
    for (std::size_t at = 0; at < size; ++at) {
      std::string other = name;
      other[at] = '\xE9';
      EXPECT_FALSE(is_same_name(name, other)) << name << " " << other;
      EXPECT_NE(hash_of(name), hash_of(other)) << name << " " << other;
    }
  }
}

TEST(names, are_found_however_many_there_are) {
  std::vector<std::string> names;
  for (int number = 0; number < 2000; ++number)
    names.push_back("layer" + std::to_string(number) + (number % 2 == 0 ? ".weight" : ""));
  const auto name_of = [&](std::uint32_t at) -> std::string_view { return names[at]; };
  const auto find = [&](const NameIndex& index, std::string_view name) {
    return index.find(name, hash_of(name), name_of);
  };
  NameIndex index;
  EXPECT_FALSE(find(index, "layer0.weight"));
  for (std::uint32_t at = 0; at < names.size(); ++at)
    index.add(hash_of(names[at]), at);
  for (std::uint32_t at = 0; at < names.size(); ++at)
    EXPECT_EQ(find(index, names[at]), at);
  EXPECT_FALSE(find(index, "layer1.weight"));
  EXPECT_FALSE(find(index, ""));
  index.clear();
  EXPECT_FALSE(find(index, names[3]));
}

// Two names may have one hash, and are still two.
TEST(names, with_one_hash_are_told_apart) {
  const std::vector<std::string> names = {"first", "second"};
  const auto name_of = [&](std::uint32_t at) -> std::string_view { return names[at]; };
  NameIndex index;
  index.add(7, 0);
  index.add(7, 1);
  EXPECT_EQ(index.find("second", 7, name_of), 1U);
  EXPECT_EQ(index.find("first", 7, name_of), 0U);
  EXPECT_FALSE(index.find("third", 7, name_of));
}

}  // namespace
}  // namespace lattice::detail
