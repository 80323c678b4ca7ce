import java.io.*;
import java.nio.file.*;
import java.util.*;

/** Prints keys and values of the property files named on standard input, in the order of the keys. */
class Properties {
    public static void main(String[] none) throws Exception {
        var out = new PrintStream(new FileOutputStream(FileDescriptor.out), false, "UTF-8");
        for (String name : new String(System.in.readAllBytes()).split("\n")) {
            var read = new java.util.Properties();
            try (var in = Files.newInputStream(Path.of(name))) {
                read.load(in);
                for (String key : new TreeSet<>(read.stringPropertyNames())) {
                    if (!key.startsWith("eclipse")) {
                        out.print(key + "\0" + read.getProperty(key) + "\0");
                    }
                }
            } catch (IllegalArgumentException broken) {
                out.print("broken\0");
            }
            out.print("\1");
        }
        out.flush();
    }
}
