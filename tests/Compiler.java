import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.StringWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import javax.tools.JavaCompiler;
import javax.tools.StandardJavaFileManager;
import javax.tools.ToolProvider;

/** Compiles one tree after another, each named by a line: says how many lines of complaints follow, and those. */
class Compiler {
    public static void main(String[] arguments) throws IOException {
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        BufferedReader asked = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8));
        for (String line = asked.readLine(); line != null; line = asked.readLine()) {
            List<Path> sources;
            try (Stream<Path> found = Files.walk(Path.of(line))) {
                sources = found.filter(each -> each.toString().endsWith(".java")).sorted().toList();
            }
            StringWriter said = new StringWriter();
            Path out = Files.createTempDirectory("isodesm-classes-");
            boolean right;
            try (StandardJavaFileManager files = compiler.getStandardFileManager(null, null, StandardCharsets.UTF_8)) {
                List<String> options = List.of("-d", out.toString(), "-proc:none");
                right = compiler.getTask(said, files, null, options, null, files.getJavaFileObjectsFromPaths(sources)).call();
            }
            try (Stream<Path> made = Files.walk(out)) {
                made.sorted((one, other) -> other.compareTo(one)).forEach(each -> each.toFile().delete());
            }
            List<String> complaints = right ? List.of() : said.toString().lines().toList();
            System.out.println(complaints.size());
            complaints.forEach(System.out::println);
            System.out.flush();
        }
    }
}
