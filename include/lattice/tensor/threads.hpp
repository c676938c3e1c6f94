#pragma once

namespace lattice {

/// How many threads large calculations may be spread over, while it lives, when they are begun on
/// the thread that made it. They change the speed, never the bits.
///
/// @code
/// const Threads one(1);   // from here to the end of the block, all on one thread
/// @endcode
///
/// Without one, there are as many as the machine has processors, or as OMP_NUM_THREADS says.
class Threads {
 public:
  /// @throws SettingError for fewer than 1.
  explicit Threads(int most);
  Threads(const Threads&) = delete;
  Threads& operator=(const Threads&) = delete;
  ~Threads();

  /// How many are allowed here and now.
  [[nodiscard]] static int allowed();

 private:
  int before_;
};

}  // namespace lattice
