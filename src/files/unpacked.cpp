#include "files/unpacked.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <cstring>
#include <limits>
#include <new>
#include <utility>

#include "lattice/text/error.hpp"

namespace lattice {

std::size_t most_unpacked(std::size_t packed) {
  constexpr std::size_t always = std::size_t{64} << 20U;
  constexpr std::size_t times = 200;
  return std::max(always, times * packed);
}

bool is_gzipped(std::string_view bytes) {
  return bytes.starts_with("\x1f\x8b");
}

/// What zlib knows of what it is unpacking.
class Unpacked::Inflating {
 public:
  explicit Inflating(std::string_view bytes) : rest_(bytes) {
    constexpr int gzip_alone = 16;
    if (inflateInit2(&stream_, MAX_WBITS + gzip_alone) != Z_OK) throw std::bad_alloc();
  }
  Inflating(const Inflating&) = delete;
  Inflating& operator=(const Inflating&) = delete;
  ~Inflating() { inflateEnd(&stream_); }

  std::size_t take(std::uint8_t* to, std::size_t count, const std::string& name) {
    std::size_t taken = 0;
    while (taken < count && !is_done_) {
      constexpr std::size_t most = std::numeric_limits<uInt>::max();
      const auto in = static_cast<uInt>(std::min(rest_.size(), most));
      const auto out = static_cast<uInt>(std::min(count - taken, most));
      // zlib reads through this pointer and never writes.
      stream_.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(rest_.data()));
      stream_.avail_in = in;
      stream_.next_out = to + taken;
      stream_.avail_out = out;
      const int answer = inflate(&stream_, Z_NO_FLUSH);
      rest_.remove_prefix(in - stream_.avail_in);
      taken += out - stream_.avail_out;
      if (answer == Z_STREAM_END) {
        // One after another they are one, as the standard has it.
        is_done_ = rest_.empty();
        if (!is_done_) inflateReset(&stream_);
      } else if (answer != Z_OK) {
        refuse(name, answer);
      }
    }
    return taken;
  }

 private:
  [[noreturn]] void refuse(const std::string& name, int answer) const {
    throw FileError({.what = fmt::format("cannot unpack {}", name),
                     .expected = "a whole gzip file",
                     .found = answer == Z_BUF_ERROR ? "a truncated one"
                              : stream_.msg != nullptr
                                  ? fmt::format("one that is damaged: {}", stream_.msg)
                                  : "one that is damaged",
                     .remedy = "copy or download it again"});
  }

  z_stream stream_{};
  std::string_view rest_;
  bool is_done_ = false;
};

Unpacked::Unpacked(std::string_view bytes, std::string name)
    : rest_(bytes), packed_(bytes.size()), name_(std::move(name)) {
  if (is_gzipped(bytes)) inflating_ = std::make_unique<Inflating>(bytes);
}

Unpacked::~Unpacked() = default;

std::size_t Unpacked::take(std::uint8_t* to, std::size_t count) {
  if (inflating_ != nullptr) return inflating_->take(to, count, name_);
  const std::size_t taken = std::min(count, rest_.size());
  if (taken > 0) std::memcpy(to, rest_.data(), taken);
  rest_.remove_prefix(taken);
  return taken;
}

std::string Unpacked::rest() {
  constexpr std::size_t piece = std::size_t{1} << 20U;
  const std::size_t most = most_unpacked(packed_);
  std::string all;
  for (std::size_t taken = piece; taken == piece;) {
    const std::size_t had = all.size();
    all.resize(had + piece);
    taken = take(reinterpret_cast<std::uint8_t*>(all.data()) + had, piece);
    all.resize(had + taken);
    if (all.size() > most) {
      throw FileError(
          {.what = fmt::format("{} unpacks to too much data for its size", name_),
           .expected = fmt::format("at most {:.0f} MB", static_cast<double>(most) / 1e6),
           .found = "more"});
    }
  }
  return all;
}

bool Unpacked::at_end() {
  std::uint8_t more = 0;
  return take(&more, 1) == 0;
}

}  // namespace lattice
