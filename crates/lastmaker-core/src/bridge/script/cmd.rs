//! For the command interpreter of Windows.
//!
//! Names come into variables by `set "name=value"`, in which only the percent sign needs doubling; delayed
//! expansion is off, so an exclamation mark is a letter like others; and each use is in quotes, where `&`,
//! `^` and brackets mean nothing. A Windows name holds no quote.

use super::{Link, Task};

pub(super) fn write(task: Task, links: &[Link], left: &[String]) -> String {
    let mut text = String::from("@echo off\r\n");
    let mut line = |parts: &[&str]| {
        for part in parts {
            text.push_str(part);
        }
        text.push_str("\r\n");
    };
    line(&[if task.reverse {
        "rem Takes links at old places away again; what they lead to is not touched."
    } else {
        "rem Makes links at old places. What stands there is left, so it can be run again."
    }]);
    for why in left {
        line(&["rem Left out: ", &why.replace('%', "%%")]);
    }
    line(&["setlocal EnableExtensions DisableDelayedExpansion"]);
    line(&["chcp 65001 >nul"]);
    line(&["set \"failed=0\""]);
    let label = if task.reverse { "take" } else { "make" };
    for link in links {
        for (name, value) in [
            ("old", &link.old),
            ("new", &link.new),
            ("aside", &link.aside),
            ("folder", &link.folder),
        ] {
            line(&["set \"", name, "=", &value.replace('%', "%%"), "\""]);
        }
        line(&["call :", label]);
    }
    line(&["exit /b %failed%"]);
    text.push_str(&BODY.replace('\n', "\r\n"));
    let lasting = if task.lasting { LASTING } else { "" };
    let (before, after) = if task.reverse {
        (TAKE, FORGET)
    } else {
        (MAKE, lasting)
    };
    text.push_str(&before.replace("LASTING\n", after).replace('\n', "\r\n"));
    text
}

/// What both directions need: whether a link stands there, by the letter that the interpreter shows for
/// links among the attributes; and whether the drive's letter stands in for the folder.
const BODY: &str = r#"
:look
set "link="
set "attributes=-"
for %%F in ("%old%") do set "attributes=-%%~aF"
if not "%attributes:l=%"=="%attributes%" set "link=yes"
exit /b 0

:letters
set "given="
if not defined folder exit /b 0
subst | find /i "%old:~0,2%\: => %folder%" >nul
if not errorlevel 1 set "given=yes"
exit /b 0

:fail
set "failed=1"
exit /b 0
"#;

const MAKE: &str = r#"
:make
if not exist "%new%" (
  echo Left: "%new%" is not there.
  goto fail
)
call :letters
if defined given (
  echo %old:~0,2% stands in for "%folder%" already.
  exit /b 0
)
if not exist "%old:~0,3%" if not exist "%old:~0,3%*" goto letter
call :look
if defined link (
  echo A link stands there already: "%old%"
  exit /b 0
)
if not exist "%old%" goto free
if not defined aside (
  echo Left: something stands at "%old%".
  goto fail
)
if exist "%aside%" (
  echo Left: "%aside%" is there already.
  goto fail
)
move "%old%" "%aside%" >nul
if errorlevel 1 goto fail
:free
for %%F in ("%old%") do set "parent=%%~dpF"
if not exist "%parent%" mkdir "%parent%"
set "attributes=-d"
for %%F in ("%new%") do if not "%%~aF"=="" set "attributes=-%%~aF"
if not "%attributes:~1,1%"=="d" (
  mklink "%old%" "%new%"
) else if "%new:~0,2%"=="\\" (
  mklink /D "%old%" "%new%"
) else (
  mklink /J "%old%" "%new%"
)
if errorlevel 1 goto fail
exit /b 0

:letter
if not defined folder (
  echo Left: drive %old:~0,2% is not there.
  goto fail
)
subst %old:~0,2% "%folder%"
if errorlevel 1 goto fail
echo %old:~0,2% stands in for "%folder%" until you sign out.
LASTING
exit /b 0
"#;

const LASTING: &str = r#"reg add "HKCU\Software\Microsoft\Windows\CurrentVersion\Run" /v "Letter %old:~0,1%" /d "subst %old:~0,2% \"%folder%\"" /f
echo It is given again whenever you sign in.
"#;

const TAKE: &str = r#"
:take
call :letters
if defined given (
  subst %old:~0,2% /d
LASTING
  exit /b 0
)
call :look
if not defined link (
  echo Left: no link stands at "%old%".
  exit /b 0
)
if "%attributes:~1,1%"=="d" (
  rmdir "%old%"
) else (
  del /a /q "%old%"
)
if errorlevel 1 goto fail
if defined aside if exist "%aside%" move "%aside%" "%old%" >nul
exit /b 0
"#;

const FORGET: &str = r#"  reg delete "HKCU\Software\Microsoft\Windows\CurrentVersion\Run" /v "Letter %old:~0,1%" /f >nul 2>&1
"#;
