//! The auditor.
