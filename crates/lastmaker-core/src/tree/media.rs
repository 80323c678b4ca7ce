//! Files that hold no settings: pictures, sounds, films, programs.

/// Whether the first bytes are those of a picture, a sound, a film or a program.
pub(super) fn is_media(content: &[u8]) -> bool {
    const STARTS: [&[u8]; 16] = [
        b"\x89PNG",
        b"\xff\xd8\xff",
        b"GIF8",
        b"II*\0",
        b"MM\0*",
        b"ID3",
        b"OggS",
        b"fLaC",
        b"\x1aE\xdf\xa3",
        b"\x7fELF",
        b"\xcf\xfa\xed\xfe",
        b"\xca\xfe\xba\xbe",
        b"\0\0\x01\0",
        b"\xff\xfb",
        b"\xff\xf3",
        b"\0asm",
    ];
    STARTS.iter().any(|start| content.starts_with(start))
        || (content.starts_with(b"RIFF") && content.len() > 12)
        || (content.starts_with(b"MZ") && content.len() > 64 && content[..64].contains(&0))
        || (content.starts_with(b"BM") && content.len() > 14 && content[6..10] == [0; 4])
        || content.get(4..8) == Some(b"ftyp")
}
