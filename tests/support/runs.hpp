#pragma once

#include <gtest/gtest.h>

#include <string>

#include "lattice/data/demo_sets.hpp"
#include "lattice/data/split.hpp"
#include "lattice/learning/training.hpp"

/// What tests of runs have in common.
namespace lattice::testing {

/// The parts of a demo set, scaled.
inline Split parts_of(const std::string& set, std::int64_t rows,
                      ScalingKind scaling = ScalingKind::standard) {
  Random random(1);
  return scaled(split(demo_set(set, rows, 1), {}, random), scaling, scaling);
}

inline void expect_same(const Weights& a, const Weights& b) {
  ASSERT_EQ(a.size(), b.size());
  for (const Weight& weight : a)
    EXPECT_EQ(weight.value, b[weight.name]) << weight.name;
}

/// Everything but the clock and the joins.
inline void expect_same(const RunRecord& a, const RunRecord& b) {
  ASSERT_EQ(a.epochs.size(), b.epochs.size());
  for (std::size_t at = 0; at < a.epochs.size(); ++at) {
    EXPECT_EQ(a.epochs[at].epoch, b.epochs[at].epoch);
    ASSERT_EQ(a.epochs[at].running.has_value(), b.epochs[at].running.has_value());
    if (a.epochs[at].running) {
      EXPECT_EQ(a.epochs[at].running->loss, b.epochs[at].running->loss);
      EXPECT_EQ(a.epochs[at].running->accuracy, b.epochs[at].running->accuracy);
    }
    EXPECT_EQ(a.epochs[at].updates, b.epochs[at].updates);
    EXPECT_EQ(a.epochs[at].train->loss, b.epochs[at].train->loss);
    EXPECT_EQ(a.epochs[at].train->accuracy, b.epochs[at].train->accuracy);
    EXPECT_EQ(a.epochs[at].watched(), b.epochs[at].watched());
    EXPECT_EQ(a.epochs[at].rate, b.epochs[at].rate);
  }
  EXPECT_EQ(a.updates, b.updates);
  EXPECT_EQ(a.ending, b.ending);
  EXPECT_EQ(a.rate_changes.size(), b.rate_changes.size());
  EXPECT_EQ(a.best->epoch, b.best->epoch);
  expect_same(a.best->weights, b.best->weights);
  expect_same(a.state->weights, b.state->weights);
}

}  // namespace lattice::testing
