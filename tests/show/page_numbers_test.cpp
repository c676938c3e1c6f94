#include "show/page_numbers.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <cstring>
#include <limits>
#include <nlohmann/json.hpp>
#include <string>

#include "lattice/lattice.hpp"

namespace lattice {
namespace {

/// The bytes that a text in Base64 stands for (RFC 4648, section 4).
std::string bytes_of(const std::string& text) {
  const std::string letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string bytes;
  std::uint32_t bits = 0;
  int held = 0;
  for (const char letter : text) {
    const std::size_t value = letters.find(letter);
    EXPECT_NE(value, std::string::npos) << letter;
    bits = bits << 6U | static_cast<std::uint32_t>(value);
    held += 6;
    if (held < 8) continue;
    held -= 8;
    bytes.push_back(static_cast<char>(bits >> static_cast<unsigned>(held) & 0xFFU));
  }
  return bytes;
}

template <class Number>
std::vector<Number> numbers_in(const std::string& text, std::size_t count) {
  const std::string bytes = bytes_of(text);
  EXPECT_GE(bytes.size(), count * sizeof(Number));
  EXPECT_LT(bytes.size(), count * sizeof(Number) + 3);
  std::vector<Number> numbers(count);
  std::memcpy(numbers.data(), bytes.data(), count * sizeof(Number));
  return numbers;
}

TEST(page_numbers, are_a_list_where_there_are_few_or_where_it_is_shorter) {
  EXPECT_EQ(numbers_on_page(tensor({0.5, std::nan(""), -2.0})).dump(), "[0.5,\"NaN\",-2.0]");
  Random random(1);
  EXPECT_TRUE(numbers_on_page(normal({most_small_numbers}, 0.0, 1.0, random)).is_array());
  const Json zero = numbers_on_page(zeros({most_small_numbers + 1}));
  ASSERT_TRUE(zero.is_array());
  EXPECT_EQ(zero.size(), most_small_numbers + 1U);
}

TEST(page_numbers, are_the_very_bits_of_many_numbers_otherwise) {
  Random random(1);
  for (std::int64_t more = 1; more <= 3; ++more) {
    const std::int64_t count = most_small_numbers + more;
    Tensor numbers = normal({count}, 0.0, 1.0, random);
    numbers.set({0}, std::nan(""));
    numbers.set({1}, -0.0);
    numbers.set({count - 1}, -std::numeric_limits<double>::infinity());
    const std::vector<double> read =
        numbers_in<double>(numbers_on_page(numbers), static_cast<std::size_t>(count));
    EXPECT_TRUE(std::isnan(read[0]));
    for (std::int64_t at = 1; at < count; ++at)
      ASSERT_EQ(read[static_cast<std::size_t>(at)], numbers.at({at}));
    EXPECT_TRUE(std::signbit(read[1]));
  }
  const std::int64_t count = most_small_numbers + 1;
  const Tensor numbers = normal({count}, 0.0, 1.0, random, Precision::single);
  const std::vector<float> read =
      numbers_in<float>(numbers_on_page(numbers), static_cast<std::size_t>(count));
  for (std::int64_t at = 0; at < count; ++at)
    ASSERT_EQ(read[static_cast<std::size_t>(at)], numbers.at({at}));
}

}  // namespace
}  // namespace lattice
