#include "show/page_numbers.hpp"

#include <boost/archive/iterators/base64_from_binary.hpp>
#include <boost/archive/iterators/transform_width.hpp>
#include <cstdint>
#include <nlohmann/json.hpp>
#include <string>
#include <utility>

#include "files/number_bytes.hpp"

namespace lattice {
namespace {

/// Filled up with zeros to whole groups of four letters.
std::string base64(std::string bytes) {
  using namespace boost::archive::iterators;
  using Letters = base64_from_binary<transform_width<const char*, 6, 8>>;
  while (bytes.size() % 3 != 0)
    bytes.push_back('\0');
  return {Letters(bytes.data()), Letters(bytes.data() + bytes.size())};
}

}  // namespace

Json numbers_on_page(const Tensor& tensor) {
  Json list = Json::array();
  for (const double number : tensor.numbers())
    list.push_back(number_in_json(number));
  if (tensor.count() <= most_small_numbers) return list;
  std::string bytes;
  add_bytes(bytes, tensor, ByteOrder::lowest_first);
  std::string text = base64(std::move(bytes));
  if (text.size() < list.dump().size()) return text;
  return list;
}

}  // namespace lattice
