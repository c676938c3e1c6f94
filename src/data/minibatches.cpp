#include "lattice/data/minibatches.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <condition_variable>
#include <exception>
#include <map>
#include <mutex>
#include <numeric>
#include <optional>
#include <span>
#include <system_error>
#include <thread>
#include <utility>
#include <vector>

#include "lattice/text/error.hpp"
#include "text/clock.hpp"

namespace lattice {

/// Where the minibatches of an epoch come from: the rows in their order. The data are shared with
/// whoever has them, who may end before.
class Minibatches::Source {
 public:
  Source(const RowSet& rows, const MinibatchSettings& settings, Random& random)
      : rows_(rows),
        size_(rows.data().is_connected() ? std::min(settings.size, rows.count()) : settings.size),
        augmented_(settings.augmented) {
    if (settings.ahead < 0 || settings.ahead > most_threads_ahead) {
      throw SettingError(
          {.what = fmt::format("{} threads cannot prepare minibatches", settings.ahead),
           .expected = fmt::format("0 to {}", most_threads_ahead),
           .found = fmt::format("{}", settings.ahead)});
    }
    if (size_ < 1 || size_ > rows_.count()) {
      throw SettingError({.what = fmt::format("a minibatch of {} rows cannot be taken from {}",
                                              size_, rows_.data().name),
                          .expected = fmt::format("1 to {}, the rows there are", rows_.count()),
                          .found = fmt::format("{}", size_)});
    }
    order_ = places_in(settings.order, random);
  }

  /// The places of the rows of the next minibatch; none at the end.
  std::span<const std::int64_t> next_places() {
    const std::size_t count = std::min(static_cast<std::size_t>(size_), order_.size() - next_);
    const std::span<const std::int64_t> places = std::span(order_).subspan(next_, count);
    next_ += count;
    return places;
  }

  /// A minibatch of these rows. May be called by several threads at a time.
  [[nodiscard]] Batch batch(std::span<const std::int64_t> places) const {
    return rows_.at(places, augmented_);
  }

 private:
  /// The places of the rows, in the order in which they come.
  [[nodiscard]] std::vector<std::int64_t> places_in(RowOrder order, Random& random) const {
    if (order == RowOrder::shuffled_each_epoch) return random.shuffled(rows_.count());
    if (order == RowOrder::shuffled_once) return Random(random).shuffled(rows_.count());
    std::vector<std::int64_t> places(rows_.rows().size());
    std::iota(places.begin(), places.end(), std::int64_t{0});
    std::ranges::stable_sort(places, {}, [this](std::int64_t place) {
      return rows_.rows()[static_cast<std::size_t>(place)];
    });
    return places;
  }

  RowSet rows_;
  std::int64_t size_;
  AugmentedEpoch augmented_;
  std::vector<std::int64_t> order_;
  std::size_t next_ = 0;
};

/// Threads that stay a few minibatches ahead of who uses them. Each makes the next one that nobody
/// makes yet; they are handed out in their order, whoever was the first to be ready.
class Minibatches::Ahead {
 public:
  /// @param threads how many; fewer where the machine has no more left
  /// @throws std::system_error when it has none.
  Ahead(Source& source, std::int64_t threads)
      : source_(&source), most_ready_(2 * static_cast<std::size_t>(threads) + 2) {
    try {
      for (std::int64_t thread = 0; thread < threads; ++thread)
        threads_.emplace_back([this] { work(); });
    } catch (const std::system_error&) {
      if (threads_.empty()) throw;
    }
  }

  /// None where the machine has no thread left: it changes the speed alone.
  static std::unique_ptr<Ahead> started(Source& source, std::int64_t threads) {
    if (threads == 0) return nullptr;
    try {
      return std::make_unique<Ahead>(source, threads);
    } catch (const std::system_error&) {
      return nullptr;
    }
  }
  Ahead(const Ahead&) = delete;
  Ahead& operator=(const Ahead&) = delete;
  ~Ahead() {
    {
      const std::lock_guard lock(mutex_);
      at_end_ = true;
    }
    changed_.notify_all();
    for (std::thread& thread : threads_)
      thread.join();
  }

  std::optional<Batch> next() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return ready_.contains(used_) || (at_end_ && used_ == begun_); });
    const auto found = ready_.find(used_);
    if (found == ready_.end()) return std::nullopt;
    Made made = std::move(found->second);
    ready_.erase(found);
    ++used_;
    lock.unlock();
    changed_.notify_all();
    if (made.trouble) std::rethrow_exception(made.trouble);
    return std::move(made.batch);
  }

 private:
  struct Made {
    Batch batch = {};
    std::exception_ptr trouble = nullptr;  ///< why there is none
  };

  void work() {
    std::unique_lock lock(mutex_);
    for (;;) {
      changed_.wait(lock, [this] { return begun_ < used_ + most_ready_ || at_end_; });
      if (at_end_) return;
      const std::span<const std::int64_t> places = source_->next_places();
      if (places.empty()) break;
      const std::size_t number = begun_++;
      lock.unlock();
      Made made;
      try {
        made.batch = source_->batch(places);
      } catch (...) {
        made.trouble = std::current_exception();
      }
      lock.lock();
      ready_.emplace(number, std::move(made));
      changed_.notify_all();
    }
    at_end_ = true;
    changed_.notify_all();
  }

  Source* source_;
  std::size_t most_ready_;
  std::mutex mutex_;
  std::condition_variable changed_;
  std::map<std::size_t, Made> ready_;
  std::size_t begun_ = 0;  ///< so many minibatches are made, or being made
  std::size_t used_ = 0;   ///< and so many handed out
  bool at_end_ = false;    ///< no other is to be begun
  std::vector<std::thread> threads_;
};

Minibatches::Minibatches(const RowSet& rows, const MinibatchSettings& settings, Random& random)
    : source_(std::make_unique<Source>(rows, settings, random)),
      ahead_(Ahead::started(*source_, settings.ahead)) {}

Minibatches::Minibatches(Minibatches&& other) noexcept = default;
Minibatches& Minibatches::operator=(Minibatches&& other) noexcept {
  ahead_ = nullptr;  // before the source that it takes from
  source_ = std::move(other.source_);
  ahead_ = std::move(other.ahead_);
  batch_ = std::move(other.batch_);
  waited_ = other.waited_;
  has_begun_ = other.has_begun_;
  return *this;
}
Minibatches::~Minibatches() = default;

Minibatches::Iterator Minibatches::begin() {
  if (std::exchange(has_begun_, true)) {
    throw SettingError({.what = "these minibatches were gone through already",
                        .expected = "new ones for each epoch",
                        .found = "a second loop over the same",
                        .remedy = "call minibatches(…) in the loop over epochs"});
  }
  return Iterator(*this);
}

bool Minibatches::advance() {
  const double asked = seconds_now();
  bool is_there = true;
  if (ahead_) {
    std::optional<Batch> next = ahead_->next();
    is_there = next.has_value();
    if (is_there) batch_ = std::move(*next);
  } else {
    const std::span<const std::int64_t> places = source_->next_places();
    is_there = !places.empty();
    if (is_there) batch_ = source_->batch(places);
  }
  waited_ += seconds_now() - asked;
  return is_there;
}

Minibatches minibatches(const RowSet& rows, const MinibatchSettings& settings, Random& random) {
  return {rows, settings, random};
}

Minibatches minibatches(const RowSet& rows, std::int64_t size, Random& random) {
  return minibatches(rows, MinibatchSettings{.size = size}, random);
}

}  // namespace lattice
