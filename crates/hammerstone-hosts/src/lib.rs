//! Examples of hosts that need another crate, in the folder `examples`; and the code of the pages that lie in no crate, which its tests run.

#[cfg(doctest)]
mod pages {
    #[doc = include_str!("../../../docs/in-code/01.md")]
    struct InCode01;
    #[doc = include_str!("../../../docs/in-code/02.md")]
    struct InCode02;
    #[doc = include_str!("../../../docs/in-code/03.md")]
    struct InCode03;
    #[doc = include_str!("../../../docs/in-code/04.md")]
    struct InCode04;
    #[doc = include_str!("../../../docs/in-code/05.md")]
    struct InCode05;
    #[doc = include_str!("../../../docs/in-code/06.md")]
    struct InCode06;
    #[doc = include_str!("../../../docs/in-code/07.md")]
    struct InCode07;
    #[doc = include_str!("../../../docs/in-code/08.md")]
    struct InCode08;
    #[doc = include_str!("../../../docs/in-code/09.md")]
    struct InCode09;
    #[doc = include_str!("../../../docs/in-code/10.md")]
    struct InCode10;
    #[doc = include_str!("../../../docs/in-code/11.md")]
    struct InCode11;
    #[doc = include_str!("../../../docs/in-code/12.md")]
    struct InCode12;
    #[doc = include_str!("../../../README.md")]
    struct Readme;
    #[doc = include_str!("../../../docs/in-your-game.md")]
    struct InYourGame;
}
