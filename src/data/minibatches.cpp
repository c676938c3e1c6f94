#include "lattice/data/minibatches.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <exception>
#include <mutex>
#include <numeric>
#include <optional>
#include <span>
#include <system_error>
#include <thread>

#include "lattice/text/error.hpp"

namespace lattice {

/// Where the minibatches of an epoch come from: the rows in their order. The data are shared with
/// whoever has them, who may end before.
class Minibatches::Source {
 public:
  Source(const RowSet& rows, const MinibatchSettings& settings, Random& random)
      : rows_(rows), size_(settings.size) {
    if (size_ < 1 || size_ > rows_.count()) {
      throw SettingError({.what = fmt::format("a minibatch of {} rows cannot be taken from {}",
                                              size_, rows_.data().name),
                          .expected = fmt::format("1 to {}, the rows there are", rows_.count()),
                          .found = fmt::format("{}", size_)});
    }
    order_ = places_in(settings.order, random);
  }

  /// The next minibatch; nothing at the end.
  std::optional<Batch> next() {
    if (next_ == order_.size()) return std::nullopt;
    const std::size_t count = std::min(static_cast<std::size_t>(size_), order_.size() - next_);
    const std::span<const std::int64_t> places = std::span(order_).subspan(next_, count);
    next_ += count;
    return rows_.at(places);
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
  std::vector<std::int64_t> order_;
  std::size_t next_ = 0;
};

/// A thread that takes from a source and stays a few minibatches ahead of who uses them.
class Minibatches::Ahead {
 public:
  explicit Ahead(Source& source) : thread_([this, &source] { prepare(source); }) {}

  /// None where the machine has no thread left: it changes the speed alone.
  static std::unique_ptr<Ahead> started(Source& source) {
    try {
      return std::make_unique<Ahead>(source);
    } catch (const std::system_error&) {
      return nullptr;
    }
  }
  Ahead(const Ahead&) = delete;
  Ahead& operator=(const Ahead&) = delete;
  ~Ahead() {
    {
      const std::lock_guard lock(mutex_);
      enough_ = true;
    }
    changed_.notify_all();
    thread_.join();
  }

  std::optional<Batch> next() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return !ready_.empty() || at_end_; });
    if (ready_.empty()) {
      if (trouble_) std::rethrow_exception(trouble_);
      return std::nullopt;
    }
    Batch batch = std::move(ready_.front());
    ready_.pop_front();
    lock.unlock();
    changed_.notify_all();
    return batch;
  }

 private:
  static constexpr std::size_t most_ready = 4;

  void prepare(Source& source) {
    try {
      while (std::optional<Batch> batch = source.next()) {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [this] { return ready_.size() < most_ready || enough_; });
        if (enough_) return;
        ready_.push_back(std::move(*batch));
        lock.unlock();
        changed_.notify_all();
      }
    } catch (...) {
      trouble_ = std::current_exception();
    }
    {
      const std::lock_guard lock(mutex_);
      at_end_ = true;
    }
    changed_.notify_all();
  }

  std::mutex mutex_;
  std::condition_variable changed_;
  std::deque<Batch> ready_;
  bool at_end_ = false;
  bool enough_ = false;
  std::exception_ptr trouble_ = nullptr;
  std::thread thread_;
};

Minibatches::Minibatches(const RowSet& rows, MinibatchSettings settings, Random& random)
    : source_(std::make_unique<Source>(rows, settings, random)),
      ahead_(settings.ahead ? Ahead::started(*source_) : nullptr) {}

Minibatches::Minibatches(Minibatches&& other) noexcept = default;
Minibatches& Minibatches::operator=(Minibatches&& other) noexcept {
  ahead_ = nullptr;  // before the source that it takes from
  source_ = std::move(other.source_);
  ahead_ = std::move(other.ahead_);
  batch_ = std::move(other.batch_);
  return *this;
}
Minibatches::~Minibatches() = default;

bool Minibatches::advance() {
  std::optional<Batch> next = ahead_ ? ahead_->next() : source_->next();
  if (!next) return false;
  batch_ = std::move(*next);
  return true;
}

Minibatches minibatches(const RowSet& rows, MinibatchSettings settings, Random& random) {
  return {rows, settings, random};
}

}  // namespace lattice
