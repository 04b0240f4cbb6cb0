// Rules and their proofs as they are kept: one text in JSON for each version, and for each proof.
#pragma once

#include "store/judgement.h"

namespace jacinth {

/// All of a rule but its name, version and text.
std::string ruleBodyOf(const Rule& rule);
/// Takes up what a body says. Fails on a member that cannot be, without effect on `rule`. A member that is
/// absent is as in a new rule.
Status readRuleBody(const std::string& body, Rule& rule);

/// Verdicts and counting time; the figures are counted again from them when it is read.
std::string proofBodyOf(const KeptProof& proof);
Status readProofBody(const std::string& body, KeptProof& proof);

}  // namespace jacinth
