//! Messages about files that are wrong: every one names the line and the field, says how it is mended, and speaks of no parser.

use std::fmt::Write as _;

use splimo_document::file;
use splimo_document::salvage;

/// Faults, each as it stands in a file below its version and its name.
const FAULTS: &[&str] = &[
    "[settings]\nrate = \"fast\"",
    "[settings]\nrate = -3",
    "[settings]\nphrase_bars = 2.5",
    "[settings]\nlands = \"brr\"",
    "[settings]\ndither = 1",
    "[canvas]\nwidth = []",
    "[[fixtures]]\nname = \"a\"\nprofle = \"rgb\"\nx = 1.0\ny = 1.0\nshape = { line = { cells = 3 } }",
    "[[fixtures]]\nname = \"a\"\nprofile = \"rgbb\"\nx = 1.0\ny = 1.0\nshape = { line = { cells = 3 } }",
    "[[fixtures]]\nname = \"a\"\nprofile = \"rgb\"\nshape = { lnie = { cells = 3 } }",
    "[[fixtures]]\nname = \"a\"\nprofile = \"rgb\"\nshape = { line = { cells = -3 } }",
    "[[fixtures]]\nname = \"a\"\nprofile = \"rgb\"\nx = 1.0\ny = 1.0\nshape = { line = { cells = 3 } }\naddress = \"one\"",
    "[[fixtures]]\nname = \"a\"\nprofile = \"rgb\"\nx = 1.0\ny = 1.0\nshape = { line = { cells = 3 } }\nwiring = { start = \"topleft\" }",
    "[[groups]]\nname = \"g\"\nmembers = [\"nobody\"]",
    "[[groups]]\nname = \"g\"\nmembers = \"a\"",
    "[[palette]]\nname = \"Foam\"\ncolours = [\"#ff\"]",
    "[[looks]]\nname = \"a\"\n[[looks.layers]]\neffect = \"chse\"",
    "[[looks]]\nname = \"a\"\n[[looks.layers]]\neffect = \"chase\"\nblend = \"ad\"",
    "[[looks]]\nname = \"a\"\n[[looks.layers]]\neffect = \"chase\"\ntarget = [\"Sial\"]",
    "[[looks]]\nname = \"a\"\n[[looks.layers]]\neffect = \"chase\"\nparams = { speed = \"now and then\" }",
    "[[looks]]\nname = \"a\"\n[[looks.layers]]\neffect = \"chase\"\nopacity = 7.0",
    "[[routes]]\nname = \"a\"\nuniverses = \"1-\"\nprotocol = \"sacn\"\nto = \"multicast\"",
    "[[routes]]\nname = \"a\"\nuniverses = \"1-2\"\nprotocol = \"artnet\"\nto = \"nodes\"",
    "[[routes]]\nname = \"a\"\nuniverses = \"1-2\"\nprotocol = \"sacn\"\nto = \"10.0.0\"",
    "[[cue_lists]]\nname = \"a\"\n[[cue_lists.cues]]\nnumber = \"one\"",
    "[[cue_lists]]\nname = \"a\"\n[[cue_lists.cues]]\nname = \"no number\"",
    "[[inputs]]\nname = \"a\"\nkind = \"mid\"\naddress = \"\"",
    "[[bindings]]\nsource = \"keys\"\nevent = \"nte 5\"\ndo = [\"blackout\"]",
    "[[bindings]]\nsource = \"keys\"\nevent = \"key x\"\ndo = [\"blackuot\"]",
    "[[values_out]]\nwhat = \"colour Foam\"\nto = \"dmx\"",
    "[[tiers]]\nname = \"a\"\nblend = 3",
    "name = \"twice\"",
    "[[fixtures]\n",
    "a = \"no end",
    "a = 'no end",
    "a = \"\\q\"",
    "a =",
    "a = yes",
    "a = [1, 2",
    "a = { b = 1",
    "a = 1 b = 2",
    "= 3",
    "[a]\n[a]",
    "a = 1\u{1}",
];

/// Words of those who write parsers, which nobody who writes shows should have to know.
const PARSERS: [&str; 14] = [
    "expected",
    "invalid",
    "unexpected",
    "variant",
    "serialize",
    "token",
    "literal",
    "u8",
    "u16",
    "u32",
    "f32",
    "f64",
    "usize",
    "`",
];

#[test]
fn messages_name_the_field_and_the_mend_and_speak_of_no_parser() {
    let mut all = String::new();
    for fault in FAULTS {
        let text = format!("version = 1\nname = \"x\"\n{fault}\n");
        let told: Vec<String> = match (file::read(&text), salvage(&text)) {
            (Ok(opened), _) => opened.warnings,
            (Err(_), Ok(salvaged)) => salvaged.faults.iter().map(ToString::to_string).collect(),
            (Err(why), Err(_)) => vec![why.to_string()],
        };
        assert!(!told.is_empty(), "{fault}: nothing is said");
        for words in &told {
            let odd: Vec<&str> = PARSERS.into_iter().filter(|word| words.contains(word)).collect();
            assert!(odd.is_empty(), "{fault}: {odd:?} in \"{words}\"");
            assert!(words.contains("line "), "{fault}: no line in \"{words}\"");
        }
        let _ = writeln!(all, "{fault}\n    -> {}\n", told.join("\n    -> "));
    }
    insta::assert_snapshot!(all);
}

#[test]
fn all_faults_of_a_file_are_told_at_once() {
    let text = "version = 1\nname = \"x\"\n[settings]\nrate = \"fast\"\n[[looks]]\nname = \"a\"\n[[looks.layers]]\neffect = \"chse\"\n\
        [[routes]]\nname = \"r\"\nuniverses = \"1\"\nprotocol = \"artnet\"\nto = \"nodes\"\n";
    let salvaged = salvage(text).expect("some of it can be read");
    let told: Vec<String> = salvaged.faults.iter().map(ToString::to_string).collect();
    assert_eq!(told.len(), 3, "{told:?}");
    for (line, words) in [(4, "rate"), (8, "\"chase\" may be meant"), (12, "\"art-net\" may be meant")] {
        let begins = format!("line {line}: ");
        assert!(told.iter().any(|told| told.starts_with(&begins) && told.contains(words)), "{line}: {words}: {told:?}");
    }
}
