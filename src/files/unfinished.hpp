#pragma once

#include <atomic>
#include <string>

namespace lattice {

/// Something on the disk that must not be left there half done: gone when this is, unless it was
/// finished, and gone when a signal ends the program.
class Unfinished {
 public:
  explicit Unfinished(std::string path);
  Unfinished(const Unfinished&) = delete;
  Unfinished& operator=(const Unfinished&) = delete;
  ~Unfinished();

  [[nodiscard]] const std::string& path() const { return path_; }

  /// It stays, or stands under another name now.
  void finish();

 private:
  std::string path_;
  std::atomic<const char*>* entry_;  ///< in the list of what a signal has to take away
};

/// Takes away every file and folder that is unfinished. A handler of signals may call it.
void take_unfinished_away() noexcept;

}  // namespace lattice
