// What the values of a tag are can be changed after the samples are in: numbers become names of states, and
// names of states numbers, and nothing that was read is lost.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Makes a tag a state tag, or one of numbers. Numbers become states by their shortest writing; a state whose
/// name is a number becomes that number; any other becomes a sample without value that keeps its text, so
/// that the way back has it again. Inside the caller's transaction or step (Study::changeWithSamples).
void changeTagKind(Study& study, TagId tag, TagKind kind);

}  // namespace jacinth
