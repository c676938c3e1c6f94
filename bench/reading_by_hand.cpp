#include <zlib.h>

#include "by_hand.hpp"

namespace by_hand {

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
