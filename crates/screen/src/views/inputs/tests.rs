//! The page of inputs, as text.
