#include "lattice/data/minibatches.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <exception>
#include <mutex>
#include <numeric>
#include <optional>
#include <system_error>
#include <thread>

#include "lattice/text/error.hpp"

namespace lattice {

namespace {

/// Some rows of the tables of a dataset, or of those of a batch of all its rows.
template <class Tables>
Batch rows_of(const Tables& tables, std::vector<std::int64_t> rows) {
  Batch batch;
  batch.features = tables.features.rows(rows);
  if (!tables.targets.empty()) batch.targets = tables.targets.rows(rows);
  if (!tables.classes.empty()) batch.classes = tables.classes.rows(rows);
  batch.rows = std::move(rows);
  return batch;
}

}  // namespace

Batch take_rows(const Dataset& data, std::vector<std::int64_t> rows) {
  return rows_of(data, std::move(rows));
}

Batch all_rows(const Dataset& data) {
  std::vector<std::int64_t> rows(static_cast<std::size_t>(data.rows()));
  std::iota(rows.begin(), rows.end(), 0);
  return {.rows = std::move(rows),
          .features = data.features,
          .targets = data.targets,
          .classes = data.classes};
}

/// Where the minibatches of an epoch come from: the rows in their order. The tables are shared with
/// the dataset, which may end before.
class Minibatches::Source {
 public:
  Source(const Dataset& data, std::int64_t size, Random& random)
      : tables_{.rows = {},
                .features = data.features,
                .targets = data.targets,
                .classes = data.classes},
        size_(size) {
    if (size_ < 1 || size_ > data.rows()) {
      throw SettingError(
          {.what = fmt::format("a minibatch of {} rows cannot be taken from {}", size_, data.name),
           .expected = fmt::format("1 to {}, the rows there are", data.rows()),
           .found = fmt::format("{}", size_)});
    }
    order_ = random.shuffled(data.rows());
  }

  /// The next minibatch; nothing at the end.
  std::optional<Batch> next() {
    if (next_ == order_.size()) return std::nullopt;
    const auto first = order_.begin() + static_cast<std::ptrdiff_t>(next_);
    const std::size_t count = std::min(static_cast<std::size_t>(size_), order_.size() - next_);
    next_ += count;
    return rows_of(tables_, {first, first + static_cast<std::ptrdiff_t>(count)});
  }

 private:
  Batch tables_;  ///< of all rows, whose numbers are not listed
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

Minibatches::Minibatches(const Dataset& data, MinibatchSettings settings, Random& random)
    : source_(std::make_unique<Source>(data, settings.size, random)),
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

Minibatches minibatches(const Dataset& data, MinibatchSettings settings, Random& random) {
  return {data, settings, random};
}

}  // namespace lattice
