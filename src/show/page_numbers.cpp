#include "show/page_numbers.hpp"

#include <algorithm>
#include <bit>
#include <boost/archive/iterators/base64_from_binary.hpp>
#include <boost/archive/iterators/transform_width.hpp>
#include <cstdint>
#include <nlohmann/json.hpp>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace lattice {
namespace {

/// The bytes of a number, those of lowest value first.
template <class Number>
void add_bytes(Number number, std::vector<char>& bytes) {
  using Bits = std::conditional_t<sizeof(Number) == 8, std::uint64_t, std::uint32_t>;
  auto bits = std::bit_cast<Bits>(number);
  for (std::size_t byte = 0; byte < sizeof(Number); ++byte) {
    bytes.push_back(static_cast<char>(bits & 0xFFU));
    bits >>= 8U;
  }
}

/// Filled up with zeros to whole groups of four letters.
std::string base64(std::vector<char> bytes) {
  using namespace boost::archive::iterators;
  using Letters = base64_from_binary<transform_width<const char*, 6, 8>>;
  while (bytes.size() % 3 != 0)
    bytes.push_back(0);
  return {Letters(bytes.data()), Letters(bytes.data() + bytes.size())};
}

std::string packed(const Tensor& tensor) {
  std::vector<char> bytes;
  for (const double number : tensor.numbers()) {
    if (tensor.precision() == Precision::single) {
      add_bytes(static_cast<float>(number), bytes);
    } else {
      add_bytes(number, bytes);
    }
  }
  return base64(std::move(bytes));
}

}  // namespace

Json numbers_on_page(const Tensor& tensor) {
  Json list = Json::array();
  for (const double number : tensor.numbers())
    list.push_back(number_in_json(number));
  if (tensor.count() <= most_small_numbers) return list;
  std::string as_bytes = packed(tensor);
  if (as_bytes.size() < list.dump().size()) return as_bytes;
  return list;
}

}  // namespace lattice
