//! Tests of the link: what goes in comes out as it went in, and nothing that comes in breaks it.

use std::sync::Arc;

use proptest::prelude::*;
use splimo_document::edit::Edit;
use splimo_document::{Command, DocumentCommand};
use splimo_document::{Document, Outcome};
use splimo_engine::{Engine, Inputs, Published};
use splimo_show::command::EngineCommand;
use splimo_show::{Place, Show, Step, Unknown};

use crate::document::{DocumentCopy, DocumentUpdate};
use crate::frame::{self, FrameError, LONGEST_REQUEST, LONGEST_UPDATE};
use crate::light::{LedSet, LightUpdate};
use crate::message::{Guest, Request, Update, VERSION};
use crate::testing::lantern_quay;

fn there_and_back(update: &Update) -> Update {
    let frame = frame::encode(update).expect("it can be told");
    frame::read(&mut frame.as_slice(), LONGEST_UPDATE).expect("it is understood")
}

#[test]
fn a_whole_show_and_its_unknown_fields_come_over() {
    let mut show = lantern_quay();
    let place = Place(vec![Step::Key("looks".into()), Step::Named("Tide".into()), Step::Key("smell".into())]);
    show.unknown = vec![Unknown { place, value: toml::Value::String("salt".into()) }];
    let mut document = Document::new(show);
    let update = Update::Document(Box::new(DocumentUpdate::whole(&document)));
    let Update::Document(back) = there_and_back(&update) else { panic!("a document went in") };
    let mut copy = DocumentCopy::default();
    copy.take(*back).expect("it fits");
    assert_eq!(copy.kept(), document.kept());
    assert_eq!(copy.kept().unknown, document.kept().unknown, "what is not understood comes along");
    // An edit of the copy, told back and forth, leaves both alike.
    let edit = Edit::RemoveLooks(vec![3]);
    let by = splimo_show::command::Origin::Screen(1);
    document.apply(&DocumentCommand::Edit(edit), by, Some(copy.edition()));
    for change in document.take_changes() {
        let Update::Document(back) = there_and_back(&Update::Document(Box::new(change.into()))) else { panic!() };
        copy.take(*back).expect("it fits");
    }
    assert_eq!((copy.kept(), copy.edition()), (document.kept(), document.edition()));
    assert_eq!(copy.saved(), document.saved());
}

#[test]
fn the_engine_and_its_light_come_over_whatever_was_heard() {
    let mut engine = Engine::new(Arc::new(lantern_quay()));
    engine.apply(&EngineCommand::FirePad(3), 0.0);
    engine.apply(&EngineCommand::Go, 0.0);
    let mut inputs = Inputs::default();
    inputs.hearing.loudness = f32::NEG_INFINITY;
    engine.tick(0.1, &inputs);
    let mut published = Published::default();
    engine.publish(&mut published);
    let Update::Engine(back) = there_and_back(&Update::Engine(Box::new(published.snapshot.clone()))) else { panic!() };
    assert_eq!(*back, published.snapshot);
    let light = LightUpdate::of(0, &published.light, &LedSet::Every(1));
    let frame = frame::encode(&Update::Light(Box::new(light.clone()))).expect("it can be told");
    assert!(frame.len() < 3 * published.light.len() + 200, "{} bytes", frame.len());
    assert_eq!(there_and_back(&Update::Light(Box::new(light.clone()))), Update::Light(Box::new(light)));
}

#[test]
fn a_field_that_one_side_does_not_know_is_no_error() {
    #[derive(serde::Serialize)]
    #[serde(rename_all = "kebab-case")]
    enum Newer {
        Hello { version: u32, guest: Guest, mood: &'static str },
    }
    let frame = frame::encode(&Newer::Hello { version: VERSION, guest: Guest::Screen, mood: "calm" }).expect("told");
    let read: Request = frame::read(&mut frame.as_slice(), LONGEST_REQUEST).expect("understood");
    assert_eq!(read, Request::Hello { version: VERSION, guest: Guest::Screen });
}

#[test]
fn lengths_that_are_only_said_take_no_memory_and_too_long_ones_are_refused() {
    let said = [&[0xff, 0xff, 0xff, 0x01][..], b"short"].concat();
    let read = |bytes: &[u8], longest| frame::read::<Request>(&mut { bytes }, longest);
    assert!(matches!(read(&said, LONGEST_REQUEST), Err(FrameError::Broken(_))));
    assert!(matches!(read(&said, 1000), Err(FrameError::TooLong(_))));
    let answer = frame::encode(&Update::Answer { number: 1, outcome: Outcome::Done }).expect("told");
    assert!(matches!(read(&answer, LONGEST_REQUEST), Err(FrameError::Strange(_))), "an update is no request");
}

proptest! {
    #[test]
    fn no_bytes_break_the_reading(bytes in proptest::collection::vec(any::<u8>(), 0..400), whole in any::<bool>()) {
        let mut frame = bytes;
        if whole && frame.len() >= 4 {
            let length = (frame.len() - 4) as u32;
            frame[..4].copy_from_slice(&length.to_le_bytes());
        }
        let _ = frame::read::<Request>(&mut frame.as_slice(), LONGEST_REQUEST);
        let _ = frame::read::<Update>(&mut frame.as_slice(), LONGEST_UPDATE);
    }

    #[test]
    fn a_frame_with_bytes_changed_is_an_error_or_another_message(at in 0usize..2000, byte in any::<u8>()) {
        let document = Document::new(Show::empty("Small"));
        let update = Update::Document(Box::new(DocumentUpdate::whole(&document)));
        let command: Command = EngineCommand::FireLook("Tide".into()).into();
        let request = Request::Command { number: 1, command: Box::new(command), base: Some(4) };
        for mut frame in [frame::encode(&update).expect("told"), frame::encode(&request).expect("told")] {
            let at = at % frame.len();
            frame[at] = byte;
            if let Ok(Update::Document(update)) = frame::read::<Update>(&mut frame.as_slice(), LONGEST_UPDATE) {
                let _ = DocumentCopy::default().take(*update);
            }
            let _ = frame::read::<Request>(&mut frame.as_slice(), LONGEST_REQUEST);
        }
    }
}
