#include <zlib.h>

#include "by_hand.hpp"

namespace by_hand {

void scale(const std::vector<unsigned char>& bytes, const std::vector<std::int64_t>& rows,
           std::size_t width, float centre, float divisor, std::vector<float>& to) {
  for (std::size_t at = 0; at < rows.size(); ++at) {
    const unsigned char* const from = bytes.data() + static_cast<std::size_t>(rows[at]) * width;
    float* const row = to.data() + at * width;
    for (std::size_t place = 0; place < width; ++place)
      row[place] = (static_cast<float>(from[place]) - centre) / divisor;
  }
}

void unpack(const std::string& packed, std::vector<unsigned char>& to) {
  constexpr int gzip_alone = 16;
  z_stream stream{};
  inflateInit2(&stream, MAX_WBITS + gzip_alone);
  stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(packed.data()));
  stream.avail_in = static_cast<uInt>(packed.size());
  stream.next_out = to.data();
  stream.avail_out = static_cast<uInt>(to.size());
  inflate(&stream, Z_FINISH);
  inflateEnd(&stream);
}

}  // namespace by_hand
