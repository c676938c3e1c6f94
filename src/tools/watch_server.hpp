#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "lattice/learning/training.hpp"
#include "lattice/lessons/prepare.hpp"
#include "tools/listening.hpp"

namespace lattice::tools {

/// Shows a run to any number of watchers while it goes on, on a page of its own. It learns of the
/// run by copies, and does its own work on its own threads; nobody who watches, or asks for
/// something else, can hold it up or make it grow, nor can a long run that nobody watches: of what
/// happened so many figures are kept, and texts and pictures are made for watchers. Connections,
/// what they may ask, and how long they may take are limited, and who does not read is cut off.
class WatchServer {
 public:
  /// Listens from here on.
  /// @throws SettingError when the address or the port cannot be had; std::system_error when the
  ///         machine has no thread or file left for it.
  WatchServer(const Prepared& prepared, std::int64_t last_epoch, const ServeSettings& settings);
  WatchServer(const WatchServer&) = delete;
  WatchServer& operator=(const WatchServer&) = delete;
  ~WatchServer();

  /// Where the page is: `http://127.0.0.1:8017/`.
  [[nodiscard]] std::string url() const;

  /// Tells watchers of an epoch; pictures are made of the copy of the network.
  void tell(const EpochFigures& figures, const Network& network);

  /// Tells them of a step that is recorded.
  void tell(const StepFigures& figures);

  /// Tells them that the run is over, and with which network it ends. The page stays up.
  void tell_end(const RunRecord& run, const Network& network);

 private:
  class Works;
  std::unique_ptr<Works> works_;
};

}  // namespace lattice::tools
