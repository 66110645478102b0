//! Overlays that float over a view: help, the palette, the settings, and questions.

mod changed;
mod help;
mod leave;
mod night;
mod offer;
mod palette;
mod reply;
mod settings;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;

pub(crate) use changed::ChangedPanel;
pub(crate) use help::{Help, help_of};
pub(crate) use leave::Leave;
pub(crate) use night::NightPanel;
pub(crate) use palette::Palette;
pub(crate) use reply::{Leaving, OverlayReply};
pub(crate) use settings::SettingsForm;

use crate::keymap::Keys;
use crate::kit::theme::Theme;
use crate::model::Model;
use crate::views::ViewId;

/// Something open over the view.
pub(crate) enum Overlay {
    /// The keys of the view.
    Help(Help),
    /// Anything by its name.
    Palette(Palette),
    /// The settings of the show.
    Settings(SettingsForm),
    /// The night log.
    Night(NightPanel),
    /// The question how to leave.
    Leave(Leave),
    /// The offer of work that was not saved.
    Recover,
    /// The offer to go on with what was on stage, in words.
    Resume(String),
    /// The question what is to become of a file that somebody else wrote too.
    Changed(ChangedPanel),
}

impl Overlay {
    /// Handles a key.
    pub(crate) fn key(&mut self, key: KeyEvent, view: ViewId, model: &Model) -> OverlayReply {
        match self {
            Self::Help(help) => help.key(key),
            Self::Palette(palette) => palette.key(key, view, model),
            Self::Settings(form) => form.key(key),
            Self::Night(night) => night.key(key),
            Self::Leave(leave) => leave.key(key),
            Self::Recover => offer::recovery_key(key),
            Self::Resume(_) => offer::resuming_key(key),
            Self::Changed(panel) => panel.key(key),
        }
    }

    /// Handles pasted text.
    pub(crate) fn paste(&mut self, text: &str) {
        match self {
            Self::Palette(palette) => palette.paste(text),
            Self::Settings(form) => form.paste(text),
            Self::Help(help) => help.paste(text),
            Self::Night(_) | Self::Leave(_) | Self::Recover | Self::Resume(_) | Self::Changed(_) => {}
        }
    }

    /// Takes note of why a command was refused.
    pub(crate) fn refused(&mut self, why: &str) {
        if let Self::Settings(form) = self {
            form.refused(why);
        }
    }

    /// Draws it.
    pub(crate) fn draw(
        &mut self,
        (view, keys): (ViewId, &Keys),
        model: &Model,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        match self {
            Self::Help(help) => help.draw(view, keys, theme, area, buffer),
            Self::Palette(palette) => palette.draw((view, keys), model, theme, area, buffer),
            Self::Settings(form) => form.draw(theme, area, buffer),
            Self::Night(night) => night.draw(model, theme, area, buffer),
            Self::Leave(leave) => leave.draw(theme, area, buffer),
            Self::Recover => offer::recovery(theme, area, buffer),
            Self::Resume(ran) => offer::resuming(ran, theme, area, buffer),
            Self::Changed(panel) => panel.draw(theme, area, buffer),
        }
    }
}
