#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

namespace lattice {

/// How many bytes may come out of a packed file of a size. What people keep is packed to a fifth,
/// what is nearly all blank to a hundredth of its size; what is smaller by far was made to fill a
/// machine's memory.
[[nodiscard]] std::size_t most_unpacked(std::size_t packed);

/// True for what begins as a gzipped file does.
[[nodiscard]] bool is_gzipped(std::string_view bytes);

/// The bytes of a file from the first to the last, unpacked on the way where it is gzipped
/// (RFC 1952).
class Unpacked {
 public:
  /// @param bytes of the file, which have to outlive this
  /// @param name of the file, for messages
  Unpacked(std::string_view bytes, std::string name);
  Unpacked(const Unpacked&) = delete;
  Unpacked& operator=(const Unpacked&) = delete;
  ~Unpacked();

  /// Takes the next bytes, as many as are left where these are fewer, and says how many.
  /// @throws FileError when the packed data are truncated, or do not agree with its own checksum.
  std::size_t take(std::uint8_t* to, std::size_t count);

  /// True when nothing is left. @throws as `take` does.
  [[nodiscard]] bool at_end();

  /// All that is left. @throws as `take` does, and where it is more than `most_unpacked` allows.
  [[nodiscard]] std::string rest();

 private:
  class Inflating;

  std::string_view rest_;
  std::size_t packed_;
  std::string name_;
  std::unique_ptr<Inflating> inflating_;
};

}  // namespace lattice
