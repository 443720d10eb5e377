//! The kinds of token and of node.

use logos::Logos;
use strum::FromRepr;

/// A token or a node. The lexer makes those that have a pattern; the parser makes the rest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Logos, FromRepr)]
#[repr(u16)]
pub(crate) enum SyntaxKind {
    #[regex(r"[ \t\r\u{feff}]+")]
    Space,
    #[token("\n")]
    Newline,
    #[regex(r"//[^\n]*", allow_greedy = true)]
    Comment,
    #[regex(r"[\p{L}_][\p{L}\p{N}_]*")]
    Word,
    /// With its unit, if it has one: `85deg`, `1.5s`, `4`.
    #[regex(r"[0-9]+(\.[0-9]+)?([\p{L}%][\p{L}\p{N}_%]*)?")]
    Number,
    #[regex(r#""([^"\\\n]|\\[^\n])*""#)]
    Text,
    #[regex(r"#[\p{L}\p{N}_]*")]
    Colour,
    #[token("(")]
    LeftParen,
    #[token(")")]
    RightParen,
    #[token("{")]
    LeftBrace,
    #[token("}")]
    RightBrace,
    #[token(",")]
    Comma,
    #[token(";")]
    Semicolon,
    #[token(":")]
    Colon,
    #[token(".")]
    Dot,
    #[token("=")]
    Equals,
    #[token("+=")]
    PlusEquals,
    #[token("-=")]
    MinusEquals,
    #[token("*=")]
    TimesEquals,
    #[token("/=")]
    DivideEquals,
    #[token("==")]
    Same,
    #[token("!=")]
    NotSame,
    #[token("<")]
    Less,
    #[token("<=")]
    AtMost,
    #[token(">")]
    Greater,
    #[token(">=")]
    AtLeast,
    #[token("+")]
    Plus,
    #[token("-")]
    Minus,
    #[token("*")]
    Star,
    #[token("/")]
    Slash,
    /// What no token begins with.
    Unknown,
    /// The end of the text; never part of a tree.
    End,

    // Nodes.
    File,
    Scene,
    Project,
    SceneFile,
    Shared,
    CatalogueFile,
    PlacesFile,
    Ticks,
    Players,
    Seeds,
    /// `given stone_reach: number = 6`
    Constant,
    /// What a constant is for.
    AboutText,
    Var,
    PerPlayer,
    Type,
    Signal,
    Effect,
    Crosses,
    /// `sent by game`, `heard by game`
    ByGame,
    Fields,
    Field,
    Given,
    Object,
    Manager,
    Mould,
    Spot,
    At,
    Facing,
    Tags,
    Flag,
    Part,
    /// An object that is nothing but a part of that kind.
    Lone,
    Group,
    During,
    Wire,
    Filter,
    Guard,
    Order,
    Cooldown,
    Delay,
    Times,
    Busy,
    Once,
    Bind,
    Rule,
    Routine,
    Kit,
    Use,
    Block,
    CommandStep,
    Arg,
    WaitStep,
    UntilStep,
    Within,
    RepeatStep,
    ForStep,
    EmitStep,
    /// `for ada`
    Behalf,
    PerformStep,
    RoutineStep,
    SpawnStep,
    SwitchStep,
    SendStep,
    TagStep,
    TweenStep,
    KeepStep,
    StopStep,
    SetStep,
    IfStep,
    Else,
    Args,
    Playtest,
    Linked,
    PlayerStep,
    DoStep,
    Action,
    ExpectStep,
    OrderStep,
    WaitUntilStep,
    KeepWorldStep,
    AllowFaults,
    TogetherStep,
    AlwaysStep,
    Cases,
    Case,
    Path,
    Literal,
    Vector,
    Paren,
    Unary,
    Binary,
    Of,
    About,
    Call,
    Count,
    Quantifier,
    Nearest,
    /// `last bell.strokes`
    Last,
    Among,
    InsideClause,
    Parent,
    IsClause,
    WhereClause,
    Bad,
}

impl SyntaxKind {
    /// Tokens that mean nothing.
    pub(crate) fn is_trivia(self) -> bool {
        matches!(self, Self::Space | Self::Newline | Self::Comment)
    }
}

/// The language, for `rowan`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum Stoi {}

impl rowan::Language for Stoi {
    type Kind = SyntaxKind;
    fn kind_from_raw(raw: rowan::SyntaxKind) -> SyntaxKind {
        SyntaxKind::from_repr(raw.0).unwrap_or(SyntaxKind::Bad)
    }
    fn kind_to_raw(kind: SyntaxKind) -> rowan::SyntaxKind {
        rowan::SyntaxKind(kind as u16)
    }
}

pub(crate) type Node = rowan::SyntaxNode<Stoi>;
pub(crate) type Token = rowan::SyntaxToken<Stoi>;
