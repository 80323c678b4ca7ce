//! For PowerShell.
//!
//! In single quotes every letter stands for itself but the quote, which is doubled; the language takes four
//! typographic quotes for it, too (about_Quoting_Rules).

use super::{Link, Task};

pub(super) fn write(task: Task, links: &[Link], left: &[String]) -> String {
    let mut text = String::new();
    let what = if task.reverse {
        "# Takes links at old places away again; what they lead to is not touched.\r\n"
    } else {
        "# Makes links at old places. What stands there is left, so it can be run again.\r\n"
    };
    text.push_str(what);
    for why in left {
        text.extend(["# Left out: ", why, "\r\n"]);
    }
    let lasting = if task.lasting { LASTING } else { "" };
    let (body, name) = if task.reverse {
        (TAKE.to_owned(), "Remove-OldPlace")
    } else {
        (MAKE.replace("LASTING\n", lasting), "Add-OldPlace")
    };
    text.push_str(&body.replace('\n', "\r\n"));
    for link in links {
        let parts = [&link.old, &link.new, &link.aside, &link.folder].map(|part| quoted(part));
        text.extend([name, " ", &parts.join(" "), "\r\n"]);
    }
    text.push_str("exit $script:failed\r\n");
    // Without a mark version 5 takes a script for text in a code page.
    if text.is_ascii() {
        text
    } else {
        format!("\u{feff}{text}")
    }
}

fn quoted(text: &str) -> String {
    let mut quoted = String::from("'");
    for letter in text.chars() {
        quoted.push(letter);
        if matches!(letter, '\'' | '\u{2018}'..='\u{201b}') {
            quoted.push(letter);
        }
    }
    quoted.push('\'');
    quoted
}

const MAKE: &str = r#"$script:failed = 0
function Add-OldPlace([string]$Old, [string]$New, [string]$Aside, [string]$Folder) {
  if (-not (Test-Path -LiteralPath $New)) {
    Write-Output "Left: $New is not there."
    $script:failed = 1
    return
  }
  $drive = $Old.Substring(0, 2)
  $given = "$drive\: => $Folder"
  if ($Folder -ne '' -and (& subst.exe | Where-Object { $_ -ieq $given })) {
    Write-Output "$drive stands in for $Folder already."
    return
  }
  if (-not (Test-Path -LiteralPath "$drive\")) {
    if ($Folder -eq '') {
      Write-Output "Left: drive $drive is not there."
      $script:failed = 1
      return
    }
    & subst.exe $drive $Folder
    if ($LASTEXITCODE -ne 0) { $script:failed = 1; return }
    Write-Output "$drive stands in for $Folder until you sign out."
LASTING
    return
  }
  $item = Get-Item -LiteralPath $Old -Force -ErrorAction SilentlyContinue
  if ($item -and $item.LinkType) {
    Write-Output "A link stands there already: $Old"
    return
  }
  if ($item) {
    if ($Aside -eq '' -or (Test-Path -LiteralPath $Aside)) {
      Write-Output "Left: something stands at $Old."
      $script:failed = 1
      return
    }
    Move-Item -LiteralPath $Old -Destination $Aside
  }
  $parent = [IO.Path]::GetDirectoryName($Old)
  if (-not (Test-Path -LiteralPath $parent)) { [void][IO.Directory]::CreateDirectory($parent) }
  $kind = 'SymbolicLink'
  if ((Test-Path -LiteralPath $New -PathType Container) -and -not $New.StartsWith('\\')) { $kind = 'Junction' }
  try {
    [void](New-Item -ItemType $kind -Path $Old -Target $New -ErrorAction Stop)
    Write-Output "Made: $Old"
  } catch {
    Write-Output "Left: ${Old}: $_"
    $script:failed = 1
  }
}
"#;

const LASTING: &str = r#"    $run = 'HKCU:\Software\Microsoft\Windows\CurrentVersion\Run'
    Set-ItemProperty -LiteralPath $run -Name "Letter $($drive[0])" -Value "subst $drive `"$Folder`""
    Write-Output "It is given again whenever you sign in."
"#;

const TAKE: &str = r#"$script:failed = 0
function Remove-OldPlace([string]$Old, [string]$New, [string]$Aside, [string]$Folder) {
  $drive = $Old.Substring(0, 2)
  $given = "$drive\: => $Folder"
  if ($Folder -ne '' -and (& subst.exe | Where-Object { $_ -ieq $given })) {
    & subst.exe $drive /d
    $run = 'HKCU:\Software\Microsoft\Windows\CurrentVersion\Run'
    Remove-ItemProperty -LiteralPath $run -Name "Letter $($drive[0])" -ErrorAction SilentlyContinue
    return
  }
  $item = Get-Item -LiteralPath $Old -Force -ErrorAction SilentlyContinue
  if (-not $item -or -not $item.LinkType) {
    Write-Output "Left: no link stands at $Old."
    return
  }
  try {
    # Not recursive: of a link only the link goes.
    $item.Delete()
    if ($Aside -ne '' -and (Test-Path -LiteralPath $Aside)) { Move-Item -LiteralPath $Aside -Destination $Old }
    Write-Output "Taken away: $Old"
  } catch {
    Write-Output "Left: ${Old}: $_"
    $script:failed = 1
  }
}
"#;
