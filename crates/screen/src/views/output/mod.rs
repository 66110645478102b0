//! The view Output: which box gets what and whether it is well, who is on the network, and what is in every slot.

mod action;
mod doors;
mod nodes;
mod panel;
mod power;
mod reply;
mod route_form;
mod routes;
mod slots;
mod state;
#[cfg(test)]
mod tests;
mod view;

pub(crate) use state::OutputView;
