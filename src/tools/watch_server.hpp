#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>

#include "lattice/files/prepare.hpp"
#include "lattice/learning/training.hpp"

namespace lattice::tools {

struct ServeSettings {
  std::string address = "127.0.0.1";  ///< whom it listens to: this machine alone
  int port = 8017;                    ///< 0 for any that is free
};

/// Shows a run to any number of watchers while it goes on, on a page of its own. It learns of the
/// run by copies, and does its own work on its own threads; nobody who watches can hold it up.
class WatchServer {
 public:
  /// Listens from here on. @throws SettingError when that is not possible.
  WatchServer(const Prepared& prepared, std::int64_t last_epoch, const ServeSettings& settings);
  WatchServer(const WatchServer&) = delete;
  WatchServer& operator=(const WatchServer&) = delete;
  ~WatchServer();

  /// Where the page is: `http://127.0.0.1:8017/`.
  [[nodiscard]] std::string url() const;

  /// Tells watchers of an epoch; pictures are made of the copy of the network.
  void tell(const EpochFigures& figures, const Network& network);

  /// Tells them that the run is over. The page stays up.
  void tell_end(const RunRecord& run);

 private:
  class Works;
  std::unique_ptr<Works> works_;
};

}  // namespace lattice::tools
