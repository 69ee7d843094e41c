document.body.append("street");
