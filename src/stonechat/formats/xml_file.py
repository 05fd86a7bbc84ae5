"""Reading XML that comes from outside: no entities, no network, names without their namespace."""

from lxml import etree

from stonechat.errors import UnreadableFile
from stonechat.text import clean_lines


def parse_xml(data: bytes, *, root_name: str, kind: str) -> etree._Element:
    """Return the root of an XML file of a kind, or refuse it with the place that is wrong."""
    if b"<!DOCTYPE" in data[:4096] or b"<!ENTITY" in data:
        raise UnreadableFile(f"The file defines entities of its own, which a {kind} file never needs. It was not read.")
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as exc:
        raise UnreadableFile(
            f"The file is not readable as XML: line {exc.lineno}, column {exc.offset}. Export the course as GPX again."
        ) from exc
    if etree.QName(root).localname != root_name:
        raise UnreadableFile(
            f"The file is XML but not {kind}: it begins with <{etree.QName(root).localname[:30]}>. Choose another file."
        )
    return root


def children_of(node: etree._Element, name: str) -> list[etree._Element]:
    """Return the children of a name: those in their parent's namespace, else, where there are none, of any."""
    named = [child for child in node if isinstance(child.tag, str) and etree.QName(child).localname == name]
    space = etree.QName(node).namespace
    return [child for child in named if etree.QName(child).namespace == space] or named


def text_of(node: etree._Element, path: str) -> str:
    """Return the text at a path of names, empty where there is none."""
    for part in path.split("/"):
        found = children_of(node, part)
        if not found:
            return ""
        node = found[0]
    return clean_lines(node.text or "").strip()
