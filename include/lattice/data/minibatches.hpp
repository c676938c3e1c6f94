#pragma once

#include <cstdint>
#include <iterator>
#include <memory>

#include "lattice/data/row_set.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// The order of the rows in an epoch.
enum class RowOrder : std::uint8_t {
  shuffled_each_epoch,  ///< at random, in a new order each time
  shuffled_once,        ///< at random, in the same order each time
  as_in_the_data        ///< by their numbers in the dataset
};

inline constexpr Words<RowOrder> row_order_words = {
    {RowOrder::shuffled_each_epoch, "shuffled each epoch"},
    {RowOrder::shuffled_once, "shuffled once"},
    {RowOrder::as_in_the_data, "as in the data"}};

struct MinibatchSettings {
  std::int64_t size =
      16;  ///< rows in a minibatch, from 1 to the number of rows; connected rows: at most
  RowOrder order = RowOrder::shuffled_each_epoch;
  std::int64_t ahead = 0;  ///< threads that prepare minibatches while one is in use; 0 for none
  AugmentedEpoch augmented = {};  ///< how examples are augmented
};

/// The largest number of threads that prepare minibatches.
inline constexpr std::int64_t most_threads_ahead = 64;

/// One epoch of minibatches: every row once; the last minibatch is smaller if the size does not
/// divide the number of rows. Can be iterated once, even after the row set is gone.
class Minibatches {
 public:
  class Iterator {
   public:
    using difference_type = std::ptrdiff_t;
    using value_type = Batch;

    explicit Iterator(Minibatches& epoch) : epoch_(&epoch) { ++*this; }

    [[nodiscard]] const Batch& operator*() const { return epoch_->batch_; }
    [[nodiscard]] const Batch* operator->() const { return &epoch_->batch_; }
    Iterator& operator++() {
      at_end_ = !epoch_->advance();
      return *this;
    }
    void operator++(int) { ++*this; }
    [[nodiscard]] bool operator==(std::default_sentinel_t) const { return at_end_; }

   private:
    Minibatches* epoch_;
    bool at_end_ = false;
  };

  /// @param random draws the order; not advanced if the order is the same each time
  /// @throws SettingError for a size below 1 or above the number of rows.
  Minibatches(const RowSet& rows, const MinibatchSettings& settings, Random& random);
  Minibatches(Minibatches&& other) noexcept;
  Minibatches& operator=(Minibatches&& other) noexcept;
  Minibatches(const Minibatches&) = delete;
  Minibatches& operator=(const Minibatches&) = delete;
  ~Minibatches();

  /// @throws SettingError for a second time: an epoch is gone through once.
  [[nodiscard]] Iterator begin();
  [[nodiscard]] static std::default_sentinel_t end() { return {}; }

  /// How long the caller has waited for minibatches so far, in seconds. Without other threads that
  /// is the time to make them.
  [[nodiscard]] double waited() const { return waited_; }

 private:
  class Source;
  class Ahead;

  bool advance();

  std::unique_ptr<Source> source_;
  std::unique_ptr<Ahead> ahead_;  ///< the other threads, if any
  Batch batch_;
  double waited_ = 0.0;
  bool has_begun_ = false;
};

/// One epoch of minibatches, shuffled again at each call unless the settings say otherwise.
///
/// @code
/// for (const Batch& batch : minibatches(pots, {.size = 16}, random)) …
/// @endcode
[[nodiscard]] Minibatches minibatches(const RowSet& rows, const MinibatchSettings& settings,
                                      Random& random);

/// The same with so many rows in each, and everything else as usual.
[[nodiscard]] Minibatches minibatches(const RowSet& rows, std::int64_t size, Random& random);

}  // namespace lattice
