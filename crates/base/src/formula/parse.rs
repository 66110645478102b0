//! From the text of a formula to its steps, by recursive descent.

use super::{BadFormula, DEPTH, FUNCTIONS, LONGEST, NAMES, Op, Two};

/// The most parentheses and signs that may stand in each other.
const DEEPEST: usize = 40;

#[derive(Debug, Clone, PartialEq)]
enum Token {
    Number(f64),
    Word(String),
    Sign(&'static str),
    End,
}

struct Parser {
    tokens: Vec<(Token, usize)>,
    at: usize,
    depth: usize,
    ops: Vec<Op>,
    /// The number of values that wait, and how many ever did.
    waiting: usize,
}

type Parsed = Result<(), BadFormula>;

fn bad<T>(column: usize, message: impl Into<String>) -> Result<T, BadFormula> {
    Err(BadFormula { column, message: message.into() })
}

pub(super) fn compile(text: &str) -> Result<Vec<Op>, BadFormula> {
    if text.chars().count() > LONGEST {
        return bad(LONGEST + 1, format!("it is longer than {LONGEST} characters"));
    }
    let tokens = tokens(text)?;
    if tokens.len() == 1 {
        return bad(1, "it is empty; write something such as sin(beat / 4)");
    }
    let mut parser = Parser { tokens, at: 0, depth: 0, ops: Vec::new(), waiting: 0 };
    parser.or()?;
    match parser.token() {
        Token::End => Ok(parser.ops),
        Token::Sign(")") => bad(parser.column(), "there is no \"(\" for this \")\""),
        _ => bad(parser.column(), "an operator is missing here, such as + or *"),
    }
}

const SIGNS: [&str; 16] = ["<=", ">=", "==", "!=", "<", ">", "+", "-", "*", "/", "%", "^", "(", ")", ",", "="];

fn tokens(text: &str) -> Result<Vec<(Token, usize)>, BadFormula> {
    let letters: Vec<char> = text.chars().collect();
    let mut tokens = Vec::new();
    let mut at = 0;
    while let Some(&letter) = letters.get(at) {
        let start = at;
        let run =
            |from: usize, belongs: &dyn Fn(char) -> bool| letters[from..].iter().take_while(|c| belongs(**c)).count();
        if letter.is_whitespace() {
            at += 1;
            continue;
        }
        if letter.is_ascii_digit() || letter == '.' {
            at += run(at, &|c| c.is_ascii_digit() || c == '.');
            let exponent =
                matches!(letters.get(at), Some('e' | 'E')) && letters.get(at + 1).is_some_and(char::is_ascii_digit);
            if exponent {
                at += 1 + run(at + 1, &|c| c.is_ascii_digit());
            }
            let word: String = letters[start..at].iter().collect();
            match word.parse::<f64>().ok().filter(|n| n.is_finite()) {
                Some(number) => tokens.push((Token::Number(number), start + 1)),
                None => return bad(start + 1, format!("\"{word}\" is not a number")),
            }
        } else if letter.is_alphabetic() {
            at += run(at, &|c| c.is_alphanumeric() || c == '_');
            tokens.push((Token::Word(letters[start..at].iter().collect::<String>().to_lowercase()), start + 1));
        } else {
            let rest: String = letters[at..].iter().take(2).collect();
            let Some(sign) = SIGNS.into_iter().find(|sign| rest.starts_with(sign)) else {
                return bad(start + 1, format!("\"{letter}\" means nothing here"));
            };
            at += sign.len();
            tokens.push((Token::Sign(sign), start + 1));
        }
    }
    tokens.push((Token::End, letters.len() + 1));
    Ok(tokens)
}

impl Parser {
    fn token(&self) -> &Token {
        &self.tokens[self.at].0
    }

    fn column(&self) -> usize {
        self.tokens[self.at].1
    }

    fn takes(&mut self, sign: &str) -> bool {
        let is =
            matches!(self.token(), Token::Sign(s) if *s == sign) || matches!(self.token(), Token::Word(w) if w == sign);
        self.at += usize::from(is);
        is
    }

    fn push(&mut self, op: Op, takes: usize) -> Parsed {
        self.waiting = self.waiting + 1 - takes;
        if self.waiting > DEPTH {
            return bad(self.column(), "too many values wait for each other here; write it in another order");
        }
        self.ops.push(op);
        Ok(())
    }

    /// Something that may hold itself, but not without end.
    fn deeper(&mut self, part: fn(&mut Self) -> Parsed) -> Parsed {
        self.depth += 1;
        if self.depth > DEEPEST {
            return bad(self.column(), "too many parentheses and signs stand in each other");
        }
        let parsed = part(self);
        self.depth -= 1;
        parsed
    }

    fn chain(&mut self, part: fn(&mut Self) -> Parsed, signs: &[(&str, Two)]) -> Parsed {
        part(self)?;
        while let Some((_, two)) = signs.iter().find(|(sign, _)| self.takes(sign)) {
            part(self)?;
            self.push(Op::Two(*two), 2)?;
        }
        Ok(())
    }

    fn or(&mut self) -> Parsed {
        self.chain(Self::and, &[("or", Two::Or)])
    }

    fn and(&mut self) -> Parsed {
        self.chain(Self::not, &[("and", Two::And)])
    }

    fn not(&mut self) -> Parsed {
        if self.takes("not") {
            self.deeper(Self::not)?;
            return self.push(Op::Not, 1);
        }
        self.comparison()
    }

    fn comparison(&mut self) -> Parsed {
        const SIGNS: [(&str, Two); 6] = [
            ("<=", Two::LessOrEqual),
            (">=", Two::GreaterOrEqual),
            ("==", Two::Equal),
            ("!=", Two::Unequal),
            ("<", Two::Less),
            (">", Two::Greater),
        ];
        self.sum()?;
        if let Some((_, two)) = SIGNS.iter().find(|(sign, _)| self.takes(sign)) {
            self.sum()?;
            self.push(Op::Two(*two), 2)?;
        }
        if matches!(self.token(), Token::Sign("=")) {
            return bad(self.column(), "to compare, write ==");
        }
        Ok(())
    }

    fn sum(&mut self) -> Parsed {
        self.chain(Self::product, &[("+", Two::Add), ("-", Two::Subtract)])
    }

    fn product(&mut self) -> Parsed {
        self.chain(Self::sign, &[("*", Two::Multiply), ("/", Two::Divide), ("%", Two::Remainder)])
    }

    fn sign(&mut self) -> Parsed {
        if self.takes("-") {
            self.deeper(Self::sign)?;
            return self.push(Op::Negate, 1);
        }
        self.atom()?;
        if self.takes("^") {
            self.deeper(Self::sign)?;
            self.push(Op::Two(Two::Power), 2)?;
        }
        Ok(())
    }

    fn atom(&mut self) -> Parsed {
        let column = self.column();
        match self.token().clone() {
            Token::Number(number) => {
                self.at += 1;
                self.push(Op::Number(number), 0)
            }
            Token::Word(word) => {
                self.at += 1;
                self.named(&word, column)
            }
            Token::Sign("(") => {
                self.at += 1;
                self.deeper(Self::or)?;
                self.closes()
            }
            Token::Sign(sign) => bad(column, format!("a number or a name is missing before \"{sign}\"")),
            Token::End => bad(column, "it ends here, where a number or a name is missing"),
        }
    }

    fn closes(&mut self) -> Parsed {
        let column = self.column();
        if self.takes(")") { Ok(()) } else { bad(column, "a \")\" is missing here") }
    }

    fn named(&mut self, word: &str, column: usize) -> Parsed {
        if let Some(function) = FUNCTIONS.iter().position(|f| f.name == word) {
            return self.call(function, column);
        }
        match NAMES.iter().position(|(name, _)| *name == word) {
            Some(_) if matches!(self.token(), Token::Sign("(")) => {
                bad(column, format!("{word} takes nothing; leave the parentheses out"))
            }
            Some(name) => self.push(Op::Name(name), 0),
            None => {
                let names = NAMES.iter().map(|(name, _)| *name).chain(FUNCTIONS.iter().map(|f| f.name));
                let known: Vec<&str> = names.collect();
                bad(column, format!("\"{word}\" is not known; there are {}", known.join(", ")))
            }
        }
    }

    fn call(&mut self, function: usize, column: usize) -> Parsed {
        let (name, wanted) = (FUNCTIONS[function].name, FUNCTIONS[function].arguments);
        let here = self.column();
        if !self.takes("(") {
            return bad(here, format!("{name} needs a \"(\" here, as in {name}(beat)"));
        }
        let mut given = 0;
        if !matches!(self.token(), Token::Sign(")")) {
            loop {
                self.deeper(Self::or)?;
                given += 1;
                if !self.takes(",") {
                    break;
                }
            }
        }
        self.closes()?;
        if given != wanted {
            return bad(column, format!("{name} takes {wanted}, and here are {given}"));
        }
        self.push(Op::Call(function), given)
    }
}
