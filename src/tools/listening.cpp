#include "tools/listening.hpp"

#include <arpa/inet.h>
#include <fmt/format.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cerrno>
#include <cstring>
#include <system_error>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice::tools {
namespace {

constexpr int most_waiting = 64;

/// An address and a port, as the machine wants them.
struct Address {
  sockaddr_storage storage{};
  socklen_t size = 0;
  [[nodiscard]] const sockaddr* get() const { return reinterpret_cast<const sockaddr*>(&storage); }
};

bool is_ipv6(const std::string& address) {
  return address.find(':') != std::string::npos;
}

bool is_address(const std::string& text) {
  std::array<unsigned char, sizeof(in6_addr)> unused{};
  return inet_pton(is_ipv6(text) ? AF_INET6 : AF_INET, text.c_str(), unused.data()) == 1;
}

SettingError refusal(const ServeSettings& settings, std::string expected, std::string found,
                     std::string remedy) {
  return SettingError(
      {.what = fmt::format("nothing can listen on {} port {}", settings.address, settings.port),
       .expected = std::move(expected),
       .found = std::move(found),
       .remedy = std::move(remedy)});
}

Address address_of(const ServeSettings& settings) {
  Address address;
  const auto port = htons(static_cast<std::uint16_t>(settings.port));
  bool is_one = false;
  if (is_ipv6(settings.address)) {
    auto& place = reinterpret_cast<sockaddr_in6&>(address.storage);
    place.sin6_family = AF_INET6;
    place.sin6_port = port;
    is_one = inet_pton(AF_INET6, settings.address.c_str(), &place.sin6_addr) == 1;
    address.size = sizeof place;
  } else {
    auto& place = reinterpret_cast<sockaddr_in&>(address.storage);
    place.sin_family = AF_INET;
    place.sin_port = port;
    is_one = inet_pton(AF_INET, settings.address.c_str(), &place.sin_addr) == 1;
    address.size = sizeof place;
  }
  if (is_one) return address;
  throw refusal(settings, "an address of this machine in numbers",
                fmt::format("'{}'", settings.address),
                "--address 127.0.0.1 for this machine alone, 0.0.0.0 for all who can reach it");
}

/// Why the machine does not listen there.
[[noreturn]] void refuse(const ServeSettings& settings, int problem) {
  switch (problem) {
    case EADDRINUSE:
      throw refusal(settings, "a port that is free", "another program listens there",
                    "--port 0 takes any free port");
    case EADDRNOTAVAIL:
      throw refusal(settings, "an address of this machine", "an address of another",
                    "--address 127.0.0.1");
    case EACCES:
      throw refusal(settings, "a port that everybody may use", "one for the system alone",
                    "--port 0 takes any free port");
    default:
      throw std::system_error(problem, std::generic_category());
  }
}

std::string lower(std::string_view text) {
  std::string all(text);
  std::ranges::transform(all, all.begin(), [](unsigned char c) { return std::tolower(c); });
  return all;
}

}  // namespace

Listening::Listening(const ServeSettings& settings)
    : address_(settings.address == "localhost" ? "127.0.0.1" : settings.address) {
  const Address address = address_of({.address = address_, .port = settings.port});
  socket_ = socket(address.storage.ss_family, SOCK_STREAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0);
  if (socket_ < 0) throw std::system_error(errno, std::generic_category());
  const auto fail = [&] {
    const int problem = errno;
    close(std::exchange(socket_, -1));
    refuse(settings, problem);
  };
  // A port on which a run listened a moment ago is free again. It is never shared.
  const int yes = 1;
  setsockopt(socket_, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
  if (bind(socket_, address.get(), address.size) != 0) fail();
  if (listen(socket_, most_waiting) != 0) fail();
  Address given;
  given.size = sizeof given.storage;
  if (getsockname(socket_, reinterpret_cast<sockaddr*>(&given.storage), &given.size) != 0) fail();
  port_ = ntohs(given.storage.ss_family == AF_INET6
                    ? reinterpret_cast<const sockaddr_in6&>(given.storage).sin6_port
                    : reinterpret_cast<const sockaddr_in&>(given.storage).sin_port);
}

Listening::~Listening() {
  if (socket_ >= 0) close(socket_);
}

int Listening::take() {
  return std::exchange(socket_, -1);
}

std::string Listening::url() const {
  return fmt::format("http://{}:{}/", is_ipv6(address_) ? "[" + address_ + "]" : address_, port_);
}

bool Listening::answers_to(std::string_view host) const {
  std::string_view name = host;
  std::string_view port;
  const std::size_t colon = host.rfind(':');
  if (colon != std::string_view::npos && !host.ends_with(']')) {
    name = host.substr(0, colon);
    port = host.substr(colon + 1);
  }
  // Some that ask by hand leave the port out; a page from elsewhere cannot.
  if (!port.empty() && parse_whole_number(port) != port_) return false;
  if (name.starts_with('[') && name.ends_with(']')) name = name.substr(1, name.size() - 2);
  const std::string asked = lower(name);
  if (asked == address_) return true;
  const bool is_this_machine = address_.starts_with("127.") || address_ == "::1";
  const bool is_everybody = address_ == "0.0.0.0" || address_ == "::";
  if (asked == "localhost") return is_this_machine || is_everybody;
  if (!is_everybody) return false;
  std::array<char, 256> own{};
  gethostname(own.data(), own.size() - 1);
  const std::string machine = lower(own.data());
  return is_address(asked) || asked == machine || asked == machine + ".local";
}

}  // namespace lattice::tools
