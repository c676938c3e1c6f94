#pragma once

namespace lattice {

/// Limits the number of threads of large calculations that start on the current thread, while the
/// object lives. Threads change the speed, never the bits.
///
/// @code
/// const Threads one(1);   // one thread until the end of the block
/// @endcode
///
/// The default is the number of processors, or OMP_NUM_THREADS.
class Threads {
 public:
  /// @throws SettingError for fewer than 1.
  explicit Threads(int most);
  Threads(const Threads&) = delete;
  Threads& operator=(const Threads&) = delete;
  ~Threads();

  /// The current limit.
  [[nodiscard]] static int allowed();

 private:
  int before_;
};

}  // namespace lattice
