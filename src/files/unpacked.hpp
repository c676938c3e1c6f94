#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

namespace lattice {

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
  /// @throws FileError when what was packed breaks off, or does not agree with its own checksum.
  std::size_t take(std::uint8_t* to, std::size_t count);

  /// True when nothing is left. @throws as `take` does.
  [[nodiscard]] bool at_end();

 private:
  class Inflating;

  std::string_view rest_;
  std::string name_;
  std::unique_ptr<Inflating> inflating_;
};

}  // namespace lattice
