#pragma once

#include <fcntl.h>
#include <sys/types.h>
#include <unistd.h>

#include <array>
#include <cstddef>
#include <string_view>

namespace lattice {

/// While it lives, what is said on standard error is only heard here: the library that makes books
/// speaks there of what it had to leave out, and not always to who called it.
class Overheard {
 public:
  Overheard() {
    std::array<int, 2> ends{};
    if (pipe2(ends.data(), O_CLOEXEC | O_NONBLOCK) != 0) return;
    ear_ = ends[0];
    before_ = dup(STDERR_FILENO);
    if (before_ >= 0) dup2(ends[1], STDERR_FILENO);
    close(ends[1]);
  }
  Overheard(const Overheard&) = delete;
  Overheard& operator=(const Overheard&) = delete;
  ~Overheard() {
    if (before_ >= 0) {
      dup2(before_, STDERR_FILENO);
      close(before_);
    }
    if (ear_ >= 0) close(ear_);
  }

  /// True when it spoke of an error, and not only of what it would do otherwise.
  [[nodiscard]] bool complained() const {
    std::array<char, 4096> heard{};
    const ssize_t count = ear_ < 0 ? 0 : read(ear_, heard.data(), heard.size());
    return count > 0 &&
           std::string_view(heard.data(), static_cast<std::size_t>(count)).find("[ERROR]") !=
               std::string_view::npos;
  }

 private:
  int ear_ = -1;
  int before_ = -1;
};

}  // namespace lattice
