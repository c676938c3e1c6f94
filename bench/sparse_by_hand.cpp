#include <Eigen/Core>
#include <Eigen/SparseCore>
#include <memory>

#include "by_hand.hpp"

namespace by_hand {
namespace {

using Dense = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
using Sparse = Eigen::SparseMatrix<double, Eigen::RowMajor>;

Sparse sparse_of(const SparseTask& task) {
  std::vector<Eigen::Triplet<double>> entries;
  entries.reserve(task.rows.size());
  for (std::size_t at = 0; at < task.rows.size(); ++at)
    entries.emplace_back(task.rows[at], task.columns[at], task.numbers[at]);
  Sparse matrix(task.nodes, task.nodes);
  matrix.setFromTriplets(entries.begin(), entries.end());
  return matrix;
}

}  // namespace

std::function<double()> sparse_product(const SparseTask& task, const std::vector<double>& x,
                                       bool turned) {
  struct State {
    Sparse matrix;
    Dense x;
    Dense result;
  };
  auto state = std::make_shared<State>();
  state->matrix = sparse_of(task);
  state->x = Eigen::Map<const Dense>(x.data(), task.nodes, task.units);
  state->result.resize(task.nodes, task.units);
  return [state, turned] {
    if (turned) {
      state->result.noalias() = state->matrix.transpose() * state->x;
    } else {
      state->result.noalias() = state->matrix * state->x;
    }
    return state->result(0, 0);
  };
}

}  // namespace by_hand
