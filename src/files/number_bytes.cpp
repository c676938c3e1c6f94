#include "files/number_bytes.hpp"

#include <bit>
#include <type_traits>
#include <vector>

#include "tensor/visit.hpp"

namespace lattice {
namespace {

template <class T>
using BitsOf = std::conditional_t<sizeof(T) == 8, std::uint64_t, std::uint32_t>;

}  // namespace

void add_bytes(std::string& bytes, const Tensor& tensor, ByteOrder order) {
  visit(tensor.precision(), [&]<class T>(T) {
    const T* const numbers = tensor.data<T>();
    std::size_t next = bytes.size();
    bytes.resize(next + sizeof(T) * static_cast<std::size_t>(tensor.count()));
    for (std::int64_t at = 0; at < tensor.count(); ++at) {
      const auto bits = std::bit_cast<BitsOf<T>>(numbers[at]);
      for (std::size_t byte = 0; byte < sizeof(T); ++byte) {
        const std::size_t above = order == ByteOrder::lowest_first ? byte : sizeof(T) - 1 - byte;
        bytes[next++] = static_cast<char>(bits >> (8 * above) & 0xFFU);
      }
    }
  });
}

std::optional<Tensor> tensor_of_bytes(std::string_view bytes, const Shape& shape,
                                      Precision precision) {
  return visit(precision, [&]<class T>(T) -> std::optional<Tensor> {
    const auto count = static_cast<std::size_t>(shape.count());
    if (bytes.size() / sizeof(T) != count || bytes.size() % sizeof(T) != 0) return std::nullopt;
    std::vector<double> numbers(count);
    const char* next = bytes.data();
    for (double& number : numbers) {
      BitsOf<T> bits = 0;
      for (std::size_t byte = 0; byte < sizeof(T); ++byte)
        bits |= static_cast<BitsOf<T>>(static_cast<unsigned char>(*next++)) << (8 * byte);
      number = static_cast<double>(std::bit_cast<T>(bits));
    }
    return tensor(shape, numbers, precision);
  });
}

}  // namespace lattice
