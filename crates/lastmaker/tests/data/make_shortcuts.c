/* Makes and reads shortcuts by the system's own shell: `make FILE TARGET FOLDER ARGUMENTS ICON` or `read FILE`. */
#define COBJMACROS
#include <windows.h>
#include <shlobj.h>
#include <stdio.h>

static void say(const char *what, const WCHAR *text)
{
    char utf8[4096];
    WideCharToMultiByte(CP_UTF8, 0, text, -1, utf8, sizeof utf8, NULL, NULL);
    printf("%s: %s\n", what, utf8);
}

int wmain(int argc, WCHAR **argv)
{
    IShellLinkW *link;
    IPersistFile *file;
    if (argc < 3 || FAILED(CoInitialize(NULL))
        || FAILED(CoCreateInstance(&CLSID_ShellLink, NULL, CLSCTX_INPROC_SERVER, &IID_IShellLinkW, (void **)&link))
        || FAILED(IShellLinkW_QueryInterface(link, &IID_IPersistFile, (void **)&file)))
        return 2;
    if (argc == 7) {
        IShellLinkW_SetPath(link, argv[3]);
        IShellLinkW_SetWorkingDirectory(link, argv[4]);
        IShellLinkW_SetArguments(link, argv[5]);
        IShellLinkW_SetIconLocation(link, argv[6], 3);
        IShellLinkW_SetDescription(link, L"Made by the shell");
        return FAILED(IPersistFile_Save(file, argv[2], TRUE));
    }
    if (FAILED(IPersistFile_Load(file, argv[2], STGM_READ)))
        return 1;
    WCHAR text[2048] = L"";
    int icon = 0;
    LPITEMIDLIST list = NULL;
    IShellLinkW_GetPath(link, text, 2048, NULL, SLGP_RAWPATH);
    say("path", text);
    text[0] = 0;
    if (SUCCEEDED(IShellLinkW_GetIDList(link, &list)) && list && SHGetPathFromIDListW(list, text))
        say("item list", text);
    IShellLinkW_GetWorkingDirectory(link, text, 2048);
    say("folder", text);
    IShellLinkW_GetArguments(link, text, 2048);
    say("arguments", text);
    IShellLinkW_GetIconLocation(link, text, 2048, &icon);
    say("icon", text);
    printf("icon index: %d\n", icon);
    return 0;
}
